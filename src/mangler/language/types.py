"""The name of a type of values, in `convert … to`."""

from __future__ import annotations

from dataclasses import field

from mangler.language.cursor import Cursor
from mangler.language.mistake import nearest
from mangler.language.source import SourceSpan
from mangler.language.tables import TYPE_WORDS
from mangler.late_dataclass import dataclass

OTHER_NAMES = {
    "int": "integer",
    "bigint": "integer",
    "whole": "integer",
    "number": "decimal",
    "numeric": "decimal",
    "real": "float",
    "double": "float",
    "string": "text",
    "str": "text",
    "varchar": "text",
    "bool": "boolean",
    "datetime": "timestamp",
}


@dataclass(frozen=True)
class TypeName:
    value: str
    span: SourceSpan = field(compare=False, repr=False)


def read_type(cursor: Cursor) -> TypeName:
    word = cursor.peek_word()
    if word not in TYPE_WORDS:
        other = OTHER_NAMES.get(word.lower())
        close = [other] if other else nearest(word, TYPE_WORDS)
        advice = f"Nearest: {close[0]}. " if close else ""
        raise cursor.mistake(
            "unknown-type",
            f"a type is expected here, found {cursor.found()}",
            f"{advice}Types are {', '.join(TYPE_WORDS)}.",
        )
    start = cursor.offset
    cursor.take_word(word)
    return TypeName(word, cursor.span(start))
