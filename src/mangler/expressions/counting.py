"""Whole numbers that count something: places in a text or list, and amounts. What they cannot be is a failure."""

from __future__ import annotations

from enum import Enum
from typing import Any

import pyarrow as pa
import pyarrow.compute as pc

from mangler.expressions.value import Bound, Failure, Frame, Value, failing
from mangler.kernels.text.patterns import flags_of
from mangler.language.mistake import wrong_recipe


class Counts(Enum):
    PLACE = "place"
    """From 1, or from the end with -1: 0 is not a place."""
    AMOUNT = "amount"
    """From 0."""


REASONS = {
    Counts.PLACE: "the place is 0, and places count from 1",
    Counts.AMOUNT: "the number is below 0, and an amount is not",
}
WAYS_OUT = {
    Counts.PLACE: "The first is 1, the last is -1.",
    Counts.AMOUNT: "Write 0 or more; to leave something out, name places: characters(text, 1, -2).",
}


def refuse_literal(function: str, counts: Counts, bound: Bound) -> None:
    """A number in the recipe that would fail in every row is refused before any row is read."""
    if isinstance(bound.literal, int) and _is_wrong(counts, bound.literal):
        what = "place 0" if counts is Counts.PLACE else "number below 0"
        raise wrong_recipe("not-a-count", f"{function} takes no {what}", WAYS_OUT[counts], bound.span)


def _is_wrong(counts: Counts, number: int) -> bool:
    return number == 0 if counts is Counts.PLACE else number < 0


def sound_count(counts: Counts, of: Any, numbers: Any, frame: Frame) -> tuple[Any, tuple[Failure, ...]]:
    """The numbers with null for what counts nothing; rows that have one fail, unless what is counted is null."""
    wrong = pc.equal(numbers, 0) if counts is Counts.PLACE else pc.less(numbers, 0)
    if not pc.any(wrong).as_py():
        return numbers, ()
    flags = flags_of(Value(wrong).array(frame.count)) & flags_of(Value(of).array(frame.count).is_valid())
    return pc.if_else(wrong, pa.scalar(None, pa.int64()), numbers), failing(flags, REASONS[counts])
