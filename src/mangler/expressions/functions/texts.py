"""Functions on whole texts: white space, letter case, length, stretches by position, classes of characters."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pyarrow as pa
import pyarrow.compute as pc

from mangler.blanks import BLANKS
from mangler.expressions.counting import Counts
from mangler.expressions.function import INTEGER, Function, Parameter, Work, on_texts
from mangler.expressions.value import Frame, Value
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.growth import refuse_beyond
from mangler.kernels.text.letter_case import title_case
from mangler.kernels.text.text_view import view
from mangler.kernels.text.white_space import squeeze, trim
from mangler.table.schema import ValueType

TEXT = Parameter("text")
COUNT = Parameter("count", INTEGER, counts=Counts.AMOUNT)


def _plain(
    name: str,
    work: Callable[[ColumnArray], Any],
    meaning: str,
    *examples: tuple[str, str],
    gives: ValueType = ValueType.TEXT,
) -> Function:
    """A function of one text."""

    def evaluate(arguments: ColumnArray, frame: Frame) -> Value:
        return Value(work(Value(arguments[0]).array(frame.count)))

    return Function(name, (TEXT,), gives, meaning, examples, evaluate)


def _counted(
    name: str, work: Callable[[ColumnArray, int], Any], meaning: str, *examples: tuple[str, str]
) -> Function:
    """A function of a text and a number of characters."""

    def evaluate(arguments: ColumnArray, frame: Frame) -> Value:
        return on_texts(arguments[0], arguments[1:], work, frame, ValueType.TEXT)

    return Function(name, (TEXT, COUNT), ValueType.TEXT, meaning, examples, evaluate)


def _left(texts: ColumnArray, count: int) -> ColumnArray:
    return pc.utf8_slice_codeunits(texts, 0, count)


def _right(texts: ColumnArray, count: int) -> ColumnArray:
    if count == 0:
        return pc.utf8_slice_codeunits(texts, 0, 0)
    return pc.utf8_slice_codeunits(texts, -count)


def _characters(arguments: ColumnArray, frame: Frame) -> Value:
    return on_texts(arguments[0], arguments[1:], _between, frame, ValueType.TEXT)


def _between(texts: ColumnArray, first: int, last: int) -> ColumnArray:
    """From 1, both included, negative from the end; what lies beyond the text is not there."""
    start = first - 1 if first > 0 else first
    if last == -1:
        return pc.utf8_slice_codeunits(texts, start)
    stop = last if last > 0 else last + 1
    if start >= 0 and stop >= 0 and stop < start:
        return pc.utf8_slice_codeunits(texts, 0, 0)
    return pc.utf8_slice_codeunits(texts, start, stop)


def _pad(pad: Callable[..., ColumnArray]) -> Work:
    def evaluate(arguments: ColumnArray, frame: Frame) -> Value:
        text, width, filler = arguments
        filler = pa.scalar(" ") if filler is None else filler
        return on_texts(text, [width, filler], work, frame, ValueType.TEXT)

    def work(texts: ColumnArray, width: int, filler: str) -> ColumnArray:
        if len(filler) != 1:  # a filler of several characters is repeated as often as it takes, then cut
            return _pad_by_run(texts, width, filler, pad is pc.utf8_lpad)
        return pad(texts, width=_bounded(width, len(texts)), padding=filler)

    return evaluate


def _pad_by_run(texts: ColumnArray, width: int, filler: str, left: bool) -> ColumnArray:
    if not filler:
        return texts
    width = _bounded(width, len(texts))
    missing = pc.max_element_wise(pc.subtract(width, pc.utf8_length(texts)), 0)
    run = (filler * (width // len(filler) + 1))[:width]
    runs = pa.array([run[:length] for length in range(width + 1)], pa.string()).take(missing)
    pieces = (runs, texts) if left else (texts, runs)
    return pc.binary_join_element_wise(*pieces, "", null_handling="emit_null")


def _bounded(width: int, count: int) -> int:
    """A width that so many texts can have."""
    refuse_beyond(width * count, f"{count:,} texts of {width:,} characters")
    return width


def _repeat(texts: ColumnArray, count: int) -> ColumnArray:
    refuse_beyond(count * view(texts).data.nbytes, f"texts {count:,} times over")
    return pc.binary_repeat(texts, count)


def _only(pattern: str) -> Callable[[ColumnArray], Any]:
    return lambda texts: pc.replace_substring_regex(texts, pattern=pattern, replacement="")


def _unaccent(texts: ColumnArray) -> ColumnArray:
    parts = pc.utf8_normalize(texts, form="NFD")
    bare = pc.replace_substring_regex(parts, pattern=r"\p{M}+", replacement="")
    return pc.utf8_normalize(bare, form="NFC")


def _alike(arguments: ColumnArray, frame: Frame) -> Value:
    one, other = (_bare(Value(argument).array(frame.count)) for argument in arguments)
    return Value(pc.equal(one, other))


def _bare(texts: ColumnArray) -> ColumnArray:
    """Without outer white space and without letter case: capitals first, since ß and ς have a small form alone."""
    return pc.utf8_lower(pc.utf8_upper(pc.utf8_trim(texts, characters=BLANKS)))


FUNCTIONS = (
    _plain(
        "trim",
        lambda texts: trim(texts).array,
        "The text without white space at its ends.",
        ('trim("  Clay Works ")', "Clay Works"),
    ),
    _plain(
        "trim_left",
        lambda texts: trim(texts, right=False).array,
        "The text without white space at its start.",
        ('trim_left("  06 ")', '"06 "'),
    ),
    _plain(
        "trim_right",
        lambda texts: trim(texts, left=False).array,
        "The text without white space at its end.",
        ('trim_right(" 06  ")', '" 06"'),
    ),
    _plain(
        "squeeze",
        lambda texts: squeeze(texts, True, True, False).array,
        "The text without white space at its ends, each run inside as one space, or one line break if it holds any.",
        ('squeeze(" Clay   Works ")', "Clay Works"),
    ),
    _plain("upper", pc.utf8_upper, "The text in capitals.", ('upper("good")', "GOOD")),
    _plain("lower", pc.utf8_lower, "The text in small letters.", ('lower("GOOD")', "good")),
    _plain(
        "title", title_case, "Each word with a capital first.", ('title("tove o\'brian")', "Tove O'brian")
    ),
    _plain(
        "length",
        lambda texts: pc.cast(pc.utf8_length(texts), pa.int64()),
        "How many characters the text has.",
        ('length("Zoë")', "3"),
        ("length(null)", "null"),
        gives=ValueType.INTEGER,
    ),
    _counted(
        "left", _left, "The first so many characters. A number below 0 fails.", ('left("clay-18", 4)', "clay")
    ),
    _counted(
        "right", _right, "The last so many characters. A number below 0 fails.", ('right("clay-18", 2)', "18")
    ),
    Function(
        "characters",
        (
            TEXT,
            Parameter("from", INTEGER, counts=Counts.PLACE),
            Parameter("to", INTEGER, counts=Counts.PLACE),
        ),
        ValueType.TEXT,
        "The characters from one place to another, counted from 1, both included; negative places count from the end;"
        " 0 is not a place, and fails.",
        (('characters("clay-18", 2, 4)', "lay"), ('characters("clay-18", -2, -1)', "18")),
        _characters,
    ),
    Function(
        "pad_left",
        (TEXT, Parameter("width", INTEGER, counts=Counts.AMOUNT), Parameter("filler", optional=True)),
        ValueType.TEXT,
        "The text with a filler before it up to a width, a space if none is given; a longer text stays.",
        (('pad_left("7", 3, "0")', "007"), ('pad_left("1222", 3, "0")', "1222")),
        _pad(pc.utf8_lpad),
    ),
    Function(
        "pad_right",
        (TEXT, Parameter("width", INTEGER, counts=Counts.AMOUNT), Parameter("filler", optional=True)),
        ValueType.TEXT,
        "The text with a filler after it up to a width, a space if none is given; a longer text stays.",
        (('pad_right("ash", 5, ".")', "ash.."),),
        _pad(pc.utf8_rpad),
    ),
    _plain(
        "letters",
        _only(r"[^\p{L}\p{M}]+"),
        "Only the letters, of any alphabet, with their accents.",
        ('letters("cone 06 é")', "coneé"),
    ),
    _plain(
        "digits",
        _only("[^0-9]+"),
        "Only the digits 0 to 9.",
        ('digits("1 222 °C")', "1222"),
    ),
    Function(
        "alike",
        (Parameter("a"), Parameter("b")),
        ValueType.BOOLEAN,
        "Whether two texts are equal except for letter case and outer white space.",
        (('alike(" Good", "GOOD ")', "true"), ('alike("good", null)', "null")),
        _alike,
    ),
    _counted("repeat", _repeat, "The text so many times over.", ('repeat("ab", 3)', "ababab")),
    _plain(
        "nfc",
        lambda texts: pc.utf8_normalize(texts, form="NFC"),
        "The text in Unicode's normal form C: letters and their accents as one character where there is one.",
        ('length(nfc("e\\u{301}"))', "1"),
    ),
    _plain(
        "nfkc",
        lambda texts: pc.utf8_normalize(texts, form="NFKC"),
        "The text in Unicode's normal form KC: as C, and characters that only look otherwise as their plain ones.",
        ('nfkc("ﬁring ①")', "firing 1"),
    ),
    _plain(
        "unaccent",
        _unaccent,
        "The letters without their accents.",
        ('unaccent("Zoë Ó Briain")', "Zoe O Briain"),
    ),
)
