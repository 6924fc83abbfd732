"""Functions that look for something in a text: replace, up_to, past, inside, part, occurrences."""

from __future__ import annotations

from collections.abc import Sequence

import pyarrow as pa
import pyarrow.compute as pc

from mangler.expressions.counting import Counts
from mangler.expressions.function import (
    INTEGER,
    Argument,
    Function,
    Look,
    Parameter,
    on_mark,
    on_texts,
    sound_mark,
)
from mangler.expressions.functions.elements import nth, split_at
from mangler.expressions.value import Frame, Value
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.patterns import refuse_too_much_work
from mangler.table.schema import ValueType

TEXT = Parameter("text")
MARK = Parameter("mark", pattern=True)
WHICH = Parameter("n", INTEGER, optional=True, counts=Counts.PLACE)
MOST_OCCURRENCES = 1000
"""RE2 repeats a part at most so many times."""


def _first(argument: Argument) -> Argument:
    return pa.scalar(1, pa.int64()) if argument is None else argument


def _extract(texts: ColumnArray, pattern: str) -> ColumnArray:
    """What the group `found` of a pattern that spans the text matches; null where the pattern does not."""
    return pc.struct_field(pc.extract_regex(texts, pattern=pattern), "found")


def _up_to(arguments: Sequence[Argument], frame: Frame) -> Value:
    text, mark, which = arguments
    return on_mark(text, mark, [_first(which)], _before_mark, frame, ValueType.TEXT)


def _before_mark(texts: ColumnArray, mark: str, which: int) -> ColumnArray:
    if not _is_countable(which):
        return pa.nulls(len(texts), pa.string())
    if which > 0:
        return _extract(texts, f"(?s)^(?P<found>(?:.*?{mark}){{{which - 1}}}.*?){mark}")
    return _extract(texts, f"(?s)^(?P<found>.*){mark}(?:.*?{mark}){{{-which - 1}}}")


def _past(arguments: Sequence[Argument], frame: Frame) -> Value:
    text, mark, which = arguments
    return on_mark(text, mark, [_first(which)], _after_mark, frame, ValueType.TEXT)


def _after_mark(texts: ColumnArray, mark: str, which: int) -> ColumnArray:
    if not _is_countable(which):
        return pa.nulls(len(texts), pa.string())
    if which > 0:
        return _extract(texts, f"(?s)^(?:.*?{mark}){{{which}}}(?P<found>.*)$")
    return _extract(texts, f"(?s)^.*{mark}(?P<found>(?:.*?{mark}){{{-which - 1}}}.*)$")


def _is_countable(which: int) -> bool:
    return abs(which) <= MOST_OCCURRENCES


def _inside(arguments: Sequence[Argument], frame: Frame) -> Value:
    text, opening, closing = arguments
    if isinstance(closing, Look):
        pattern = f"(?:{closing.re2})"
        return on_mark(text, opening, [], lambda texts, a: _between(texts, a, pattern), frame, ValueType.TEXT)
    from mangler.kernels.text.patterns import escape

    closing, failures = sound_mark(text, closing, frame)
    done = on_mark(
        text, opening, [closing], lambda texts, a, b: _between(texts, a, escape(b)), frame, ValueType.TEXT
    )
    return Value(done.data, done.failures + failures)


def _between(texts: ColumnArray, opening: str, closing: str) -> ColumnArray:
    return _extract(texts, f"(?s){opening}(?P<found>.*?){closing}")


def _part(arguments: Sequence[Argument], frame: Frame) -> Value:
    text, delimiter, which = arguments
    return on_mark(text, delimiter, [which], _nth_part, frame, ValueType.TEXT)


def _nth_part(texts: ColumnArray, delimiter: str, which: int) -> ColumnArray:
    return nth(split_at(texts, delimiter), which)


def _occurrences(arguments: Sequence[Argument], frame: Frame) -> Value:
    text, mark = arguments
    return on_mark(text, mark, [], _count, frame, ValueType.INTEGER)


def _count(texts: ColumnArray, mark: str) -> ColumnArray:
    refuse_too_much_work(texts, mark)
    return pc.cast(pc.count_substring_regex(texts, pattern=mark), pa.int64())


def _replace(arguments: Sequence[Argument], frame: Frame) -> Value:
    text, mark, new = arguments
    if isinstance(mark, Look):

        def work(texts: ColumnArray, filler: str) -> ColumnArray:
            refuse_too_much_work(texts, mark.re2)
            return pc.replace_substring_regex(texts, pattern=mark.re2, replacement=filler)

        return on_texts(text, [new], work, frame, ValueType.TEXT)
    mark, failures = sound_mark(text, mark, frame)
    done = on_texts(
        text,
        [mark, new],
        lambda texts, old, filler: pc.replace_substring(texts, pattern=old, replacement=filler),
        frame,
        ValueType.TEXT,
    )
    return Value(done.data, done.failures + failures)


FUNCTIONS = (
    Function(
        "replace",
        (TEXT, MARK, Parameter("new")),
        ValueType.TEXT,
        "The text with every occurrence of a text, or of a pattern's matches, replaced; for a pattern \\0 to \\9 in"
        " the new text are its groups.",
        (('replace("1.222", ".", "")', "1222"), ("replace('cone 06', /(\\d+)/, '<\\1>')", "cone <06>")),
        _replace,
    ),
    Function(
        "up_to",
        (TEXT, MARK, WHICH),
        ValueType.TEXT,
        "What is before a mark: its first occurrence, its n-th, or with -1 its last. Null where there is none.",
        (
            ('up_to("pim@example.org", "@")', "pim"),
            ('up_to("A/2/left", "/", -1)', "A/2"),
            ('up_to("A", "/")', "null"),
        ),
        _up_to,
    ),
    Function(
        "past",
        (TEXT, MARK, WHICH),
        ValueType.TEXT,
        "What is after a mark: its first occurrence, its n-th, or with -1 its last. Null where there is none.",
        (
            ('past("pim@example.org", "@")', "example.org"),
            ('past("A/2/left", "/", -1)', "left"),
            ('past("tea bowl-3", /[-=]/)', "3"),
        ),
        _past,
    ),
    Function(
        "inside",
        (TEXT, Parameter("a", pattern=True), Parameter("b", pattern=True)),
        ValueType.TEXT,
        "What is between the first a and the next b after it. Null where there is none.",
        (('inside("cone [06] slow", "[", "]")', "06"), ('inside("cone 06", "[", "]")', "null")),
        _inside,
    ),
    Function(
        "part",
        (TEXT, Parameter("delimiter", pattern=True), Parameter("n", INTEGER, counts=Counts.PLACE)),
        ValueType.TEXT,
        "The n-th part of a delimited text, from 1, or from the end with a negative n; 0 fails. White space stays. Null"
        " where there are fewer.",
        (
            ('part("A/2/left", "/", 2)', "2"),
            ('part("A/2/left", "/", -1)', "left"),
            ('part("A", "/", 2)', "null"),
        ),
        _part,
    ),
    Function(
        "occurrences",
        (TEXT, MARK),
        ValueType.INTEGER,
        "How many times a text or pattern occurs, without overlaps.",
        (('occurrences("celadon; ash; ash", ";")', "2"), ('occurrences("", "x")', "0")),
        _occurrences,
    ),
)
