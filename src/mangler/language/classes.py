"""Classes of characters: `letters`, `digits`, and texts whose characters are meant one by one."""

from __future__ import annotations

from dataclasses import field
from typing import TypeAlias

from mangler.language.columns import read_list
from mangler.language.cursor import Cursor
from mangler.language.literals import Text, read_text, starts_text
from mangler.language.mistake import nearest
from mangler.language.source import SourceSpan
from mangler.late_dataclass import dataclass

CLASS_WORDS = ("letters", "digits", "spaces", "punctuation", "symbols", "controls")


@dataclass(frozen=True)
class CharacterClass:
    """One of CLASS_WORDS."""

    word: str
    span: SourceSpan = field(compare=False, repr=False)


Characters: TypeAlias = CharacterClass | Text


def read_classes(cursor: Cursor) -> tuple[Characters, ...]:
    return read_list(cursor, lambda inner, _: _read_class(inner))


def _read_class(cursor: Cursor) -> Characters:
    if starts_text(cursor):
        text = read_text(cursor)
        if not text.value:
            raise cursor.mistake("empty-text", "this text has no characters", 'Write some: "-/".', text.span)
        return text
    word, start = cursor.peek_word(), cursor.offset
    if word not in CLASS_WORDS:
        close = nearest(word, CLASS_WORDS)
        advice = f"Nearest: {close[0]}. " if close else ""
        raise cursor.mistake(
            "not-a-character-class",
            f"a class of characters is expected here, found {cursor.found()}",
            f'{advice}Classes are {", ".join(CLASS_WORDS)}; own characters are in a text: "-/".',
        )
    cursor.take_word(word)
    return CharacterClass(word, cursor.span(start))
