"""What a function declares about itself: its signature, meaning and examples for the reference, and its work."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, TypeAlias

import pyarrow as pa
import pyarrow.compute as pc

from mangler.expressions.by_distinct import by_distinct
from mangler.expressions.counting import Counts
from mangler.expressions.value import Bound, Failure, Frame, Value, failing
from mangler.kernels.text.patterns import escape, flags_of
from mangler.language.source import SourceSpan
from mangler.late_dataclass import dataclass
from mangler.table.schema import ValueType
from mangler.table.types import ARROW, NUMERIC

TEXT = frozenset({ValueType.TEXT})
INTEGER = frozenset({ValueType.INTEGER})
NUMBER = frozenset(NUMERIC)
DAY = frozenset({ValueType.DATE, ValueType.TIMESTAMP})
CLOCK = frozenset({ValueType.TIME, ValueType.TIMESTAMP})
LIST = frozenset({ValueType.LIST})
EVERY = frozenset(ValueType)
ANY = EVERY - {ValueType.OTHER}
WORDS = {
    TEXT: "text",
    INTEGER: "whole numbers",
    NUMBER: "numbers",
    DAY: "dates",
    CLOCK: "times",
    LIST: "lists",
    ANY - LIST - {ValueType.BOOLEAN}: "values that have an order",
    frozenset({ValueType.TIMESTAMP}): "timestamps",
    ANY: "any value",
    EVERY: "any value",
}


@dataclass(frozen=True)
class Parameter:
    """`optional` ones may be left out; a `repeated` one, the last, may be given several times."""

    name: str
    accepts: frozenset[ValueType] = TEXT
    optional: bool = False
    repeated: bool = False
    pattern: bool = False
    """Whether a pattern is allowed here too."""
    counts: Counts | None = None
    """What a whole number counts here."""


@dataclass(frozen=True)
class Look:
    """A pattern as an argument, in RE2's syntax."""

    re2: str


Argument: TypeAlias = Any
"""An Arrow array, a scalar for all rows, a Look, or None for one left out."""
Work: TypeAlias = Callable[[Sequence[Argument], Frame], Value]
Binder: TypeAlias = Callable[[Sequence[Bound], SourceSpan], Bound]


@dataclass(frozen=True)
class Function:
    """A function of the language. `bind`, where there is one, takes the place of `gives` and `work`."""

    name: str
    parameters: tuple[Parameter, ...]
    gives: ValueType
    meaning: str
    examples: tuple[tuple[str, str], ...]
    """An expression without columns, and its value as a test's table would hold it."""
    work: Work | None = None
    bind: Binder | None = None

    @property
    def signature(self) -> str:
        """`up_to(text, mark [, n])`"""
        out = ""
        for number, parameter in enumerate(self.parameters):
            comma = ", " if number else ""
            if parameter.optional:
                out += f" [{comma}{parameter.name}]"
            else:
                out += comma + parameter.name + (", …" if parameter.repeated else "")
        return f"{self.name}({out})"


def on_texts(
    texts: Argument, parameters: Sequence[Argument], work: Callable[..., Any], frame: Frame, gives: ValueType
) -> Value:
    """`work(texts, *values)`, once where the parameters are the same in all rows, else once per combination."""
    array = Value(texts).array(frame.count)
    if all(isinstance(parameter, pa.Scalar) for parameter in parameters):
        if not all(parameter.is_valid for parameter in parameters):
            return Value(pa.scalar(None, ARROW[gives]))
        return Value(work(array, *(parameter.as_py() for parameter in parameters)))
    arrays = [Value(parameter).array(frame.count) for parameter in parameters]
    return Value(by_distinct(array, arrays, work, ARROW[gives]))


def mark_pattern(mark: str | Look) -> str:
    """What is looked for, as a pattern."""
    return f"(?:{mark.re2})" if isinstance(mark, Look) else escape(mark)


def on_mark(
    texts: Argument,
    mark: Argument,
    parameters: Sequence[Argument],
    work: Callable[..., Any],
    frame: Frame,
    gives: ValueType,
) -> Value:
    """Like `on_texts`, for functions that look for a text or a pattern: `work(texts, pattern, *values)`."""
    if isinstance(mark, Look):
        pattern = mark_pattern(mark)
        return on_texts(
            texts, parameters, lambda chosen, *values: work(chosen, pattern, *values), frame, gives
        )
    mark, failures = sound_mark(texts, mark, frame)
    done = on_texts(
        texts,
        [mark, *parameters],
        lambda chosen, text, *values: work(chosen, escape(text), *values),
        frame,
        gives,
    )
    return Value(done.data, done.failures + failures)


NO_MARK = "the mark is an empty text, which is everywhere"


def sound_mark(texts: Argument, mark: Argument, frame: Frame) -> tuple[Argument, tuple[Failure, ...]]:
    """The marks with null for the empty text, which is nowhere and everywhere: rows that look for it fail."""
    empty = pc.equal(mark, "")
    if not pc.any(empty).as_py():
        return mark, ()
    flags = flags_of(Value(empty).array(frame.count)) & flags_of(Value(texts).array(frame.count).is_valid())
    return pc.if_else(empty, pa.scalar(None, pa.string()), mark), failing(flags, NO_MARK)
