"""Values out of texts that are JSON: `json_at`, `json_list`."""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Sequence
from typing import Any, TypeAlias

import orjson
import pyarrow as pa

from mangler.blanks import BLANKS
from mangler.expressions.conversion import shortened
from mangler.expressions.function import TEXT, Function, Parameter
from mangler.expressions.reasons import ByCell
from mangler.expressions.value import Bound, Frame, Value, failing
from mangler.kernels.text.dictionary import as_dictionary
from mangler.kernels.text.patterns import flags_of
from mangler.language.mistake import wrong_recipe
from mangler.language.source import SourceSpan
from mangler.table.schema import ValueType
from mangler.table.types import ARROW

Place: TypeAlias = tuple[str | int, ...]
STEP = re.compile(r'\.?([^.\[\]"]+)|\[([0-9]+)\]|\.?\["((?:[^"\\]|\\.)*)"\]')


def place_of(path: str) -> Place | None:
    """`a.b[0]["odd.key"]` as keys and places from 0; None where it is written otherwise."""
    found: list[str | int] = []
    offset = 0
    while offset < len(path):
        step = STEP.match(path, offset)
        if step is None or (offset == 0 and path.startswith(".")):
            return None
        key, number, quoted = step.groups()
        found.append(key if key is not None else int(number) if number is not None else _unquoted(quoted))
        offset = step.end()
    return tuple(found)


def _unquoted(text: str) -> str:
    return re.sub(r"\\(.)", r"\1", text)


def _bind(
    gives: ValueType, name: str, spell: Callable[[Any], Any]
) -> Callable[[Sequence[Bound], SourceSpan], Bound]:
    def bind(arguments: Sequence[Bound], span: SourceSpan) -> Bound:
        text, path = arguments
        place = place_of(path.literal) if isinstance(path.literal, str) else None
        if place is None:
            raise wrong_recipe(
                "wrong-argument",
                f"{path.span.text} is not a way to a value in JSON",
                f'Keys have points between them, places in lists count from 0: {name}({text.span.text}, "a.b[0]").',
                path.span,
            )

        def evaluate(frame: Frame) -> Value:
            value = text.evaluate(frame)
            array = value.array(frame.count)
            encoded = as_dictionary(array)
            made, wrong = [], []
            for one in encoded.dictionary.to_pylist():
                result, failed = _found(one, place, spell)
                made.append(result)
                wrong.append(failed)
            out = pa.array(made, ARROW[gives]).take(encoded.indices)
            flags = flags_of(pa.array(wrong, pa.bool_()).take(encoded.indices))
            reason = ByCell(array, lambda one: f'"{shortened(one)}" is no JSON')
            return Value(out, value.failures + failing(flags, reason))

        return Bound(gives, evaluate, span)

    return bind


class _Digits(str):
    """A number as it is written, so that nothing is rounded."""


def _no_constant(word: str) -> None:
    raise ValueError(word)


def _read(text: str) -> Any:
    """The value of a text; a ValueError where it is no JSON, or too deep, or holds half of a character."""
    try:
        return json.loads(text, parse_int=_Digits, parse_float=_Digits, parse_constant=_no_constant)
    except RecursionError:
        raise ValueError("nested too deeply") from None


def _found(text: str, place: Place, spell: Callable[[Any], Any]) -> tuple[Any, bool]:
    """What is at a place of a text, null for nothing, and whether the text is no JSON. A blank text is nothing."""
    if not text.strip(BLANKS):
        return None, False
    try:
        value = _read(text)
        for step in place:
            if isinstance(step, int):
                value = value[step] if isinstance(value, list) and step < len(value) else None
            else:
                value = value.get(step) if isinstance(value, dict) else None
            if value is None:
                return None, False
        return spell(value), False
    except (ValueError, orjson.JSONEncodeError):
        return None, True


def _as_text(value: Any) -> str:
    if isinstance(value, str):
        value.encode()  # half of a character is none
        return str(value)
    return orjson.dumps(value, default=_fragment, option=orjson.OPT_PASSTHROUGH_SUBCLASS).decode()


def _fragment(value: Any) -> Any:
    return orjson.Fragment(str(value))


def _as_list(value: Any) -> list[str | None] | None:
    if not isinstance(value, list):
        return None
    return [None if one is None else _as_text(one) for one in value]


SAMPLE = '\'{"kiln": {"no": "007"}, "glazes": ["ash", "shino"]}\''
TEXT_PARAMETERS = (Parameter("text", TEXT), Parameter("path", TEXT))
JSON_AT = Function(
    "json_at",
    TEXT_PARAMETERS,
    ValueType.TEXT,
    "The value at a place of a text that is JSON, as a text: a.b[0] is the first element of the list b in the object a."
    " Null where nothing is there. A text that is no JSON fails; a blank one is null.",
    ((f'json_at({SAMPLE}, "kiln.no")', '"007"'), (f'json_at({SAMPLE}, "glazes[1]")', "shino")),
    bind=_bind(ValueType.TEXT, "json_at", _as_text),
)
JSON_LIST = Function(
    "json_list",
    TEXT_PARAMETERS,
    ValueType.LIST,
    "The list at a place of a text that is JSON, its elements as texts. Null where no list is there. A text that is no"
    " JSON fails; a blank one is null.",
    ((f'size(json_list({SAMPLE}, "glazes"))', "2"),),
    bind=_bind(ValueType.LIST, "json_list", _as_list),
)
