"""Texts to values of other types, in the forms that need no saying: 12, 0.5, true, ISO 8601.

White space around a text is ignored, and blank becomes null. What does not convert is null and flagged.
"""

from __future__ import annotations

from collections.abc import Callable
from decimal import Context, Decimal
from typing import TypeAlias

import numpy as np
import numpy.typing as npt
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.arrow import ArrowType, ColumnArray, from_numpy
from mangler.kernels.text.patterns import flags_of, matches
from mangler.kernels.text.text_view import Flags, TextArray, view
from mangler.kernels.text.white_space import trim
from mangler.late_dataclass import dataclass

DECIMAL = pa.decimal128(38, 9)
"""A decimal without stated places: up to 9 of them, 29 digits before the point."""
MOST_PLACES = 9

INTEGER_FORM = r"^[+-]?[0-9]+$"
DECIMAL_FORM = r"^[+-]?(0*[0-9]{1,29}(\.[0-9]{1,9}0*)?|\.[0-9]{1,9}0*)$"
FLOAT_FORM = r"^[+-]?([0-9]+(\.[0-9]*)?|\.[0-9]+)([eE][+-]?[0-9]+)?$"
ASCII, PLUS = 127, 43
NOT_ZERO = r"^[^eE]*[1-9]"
"""A number with a digit before its exponent that is not 0."""
DATE_FORM = r"^[0-9]{4}-[0-9]{2}-[0-9]{2}$"
TIME_FORM = r"^[0-9]{2}:[0-9]{2}(:[0-9]{2}(\.[0-9]{1,6})?)?$"
TIMESTAMP_FORM = r"^[0-9]{4}-[0-9]{2}-[0-9]{2}[T ][0-9]{2}:[0-9]{2}(:[0-9]{2}(\.[0-9]{1,6})?)?$"
DAY = 86_400_000_000
"""Microseconds."""

Integers: TypeAlias = npt.NDArray[np.int64]


@dataclass(frozen=True)
class Converted:
    """`failed` flags the cells that hold a value which does not convert; they are null in the array."""

    array: ColumnArray
    failed: Flags


MINUS_SIGNS = r"^[\x{2212}\x{2013}]([0-9.,])"
"""The minus of typesetters, and the dash that is typed for it, before a number."""


def with_plain_minus(texts: TextArray) -> TextArray:
    """The texts with a hyphen for a minus sign or a dash before a number."""
    if not (view(texts).data > ASCII).any():
        return texts
    return pc.replace_substring_regex(texts, pattern=MINUS_SIGNS, replacement=r"-\1")


def to_integer(array: TextArray) -> Converted:
    """Whole numbers of 64 bits, with a sign or without."""
    text, fits = _of_form(array, INTEGER_FORM)
    if (view(text).data == PLUS).any():
        text = pc.replace_substring_regex(text, pattern=r"^\+", replacement="")
    long = fits & (view(text).lengths > 18)
    for index in np.flatnonzero(long).tolist():
        fits[index] = _has_64_bits(text[index].as_py())
    return _converted(array, fits, pc.cast(_only(text, fits), pa.int64()))


def _has_64_bits(number: str) -> bool:
    """Python itself refuses to read an integer of thousands of digits."""
    digits = number.lstrip("-").lstrip("0")
    return len(digits) <= 19 and int(digits or "0") < 2**63 + number.startswith("-")


def to_float(array: TextArray) -> Converted:
    """The nearest float of 64 bits. A number too large for one fails, and so does one so small that 0 is nearest."""
    text, fits = _of_form(array, FLOAT_FORM)
    floats = pc.cast(_only(text, fits), pa.float64())
    fits &= ~flags_of(pc.is_inf(floats))
    zero = flags_of(pc.equal(floats, 0.0))
    if zero.any():
        fits &= ~(zero & matches(text, NOT_ZERO))
    return _converted(array, fits, _only(floats, fits))


def to_decimal(array: TextArray) -> Converted:
    """Exact numbers of up to 9 places and 29 digits before the point."""
    text, fits = _of_form(array, DECIMAL_FORM)
    if view(text).lengths.max(initial=0) > MOST_PLACES + 1:  # else there is no room for more places
        text = pc.replace_substring_regex(text, pattern=r"(\.[0-9]{1,9})0*$", replacement=r"\1")
    return _converted(array, fits, pc.cast(_only(text, fits), DECIMAL))


def to_boolean(array: TextArray) -> Converted:
    """`true` and `false`, in any letter case."""
    text, fits = _of_form(array, "(?i)^(true|false)$")
    return _converted(array, fits, _only(pc.equal(pc.utf8_lower(text), "true"), fits))


def to_date(array: TextArray) -> Converted:
    """`2026-05-04`, days that exist in the Gregorian calendar."""
    return _by_digits(array, DATE_FORM, lambda text: _days(_digits(text, 10)), pa.date32(), np.int32)


def to_time(array: TextArray) -> Converted:
    """`09:30`, `09:30:15`, `09:30:15.25`."""

    def work(text: TextArray) -> tuple[Integers, Flags]:
        return _microseconds(_digits(_full_time(text, 5), 15), 0)

    return _by_digits(array, TIME_FORM, work, pa.time64("us"), np.int64)


def to_timestamp(array: TextArray) -> Converted:
    """`2026-05-04 09:30` or with a `T`, with seconds or without; without a zone."""

    def work(text: TextArray) -> tuple[Integers, Flags]:
        digits = _digits(_full_time(text, 16), 26)
        days, day_exists = _days(digits)
        time, time_exists = _microseconds(digits, 11)
        return days * DAY + time, day_exists & time_exists

    return _by_digits(array, TIMESTAMP_FORM, work, pa.timestamp("us"), np.int64)


def _of_form(array: TextArray, form: str) -> tuple[TextArray, Flags]:
    text = with_plain_minus(trim(array).array)
    return text, matches(text, form)


def _only(array: ColumnArray, fits: Flags) -> ColumnArray:
    """The cells that fit, the others null."""
    return array if fits.all() else pc.if_else(from_numpy(fits), array, pa.scalar(None, array.type))


def _converted(array: TextArray, fits: Flags, out: ColumnArray) -> Converted:
    if fits.all():
        return Converted(out, np.zeros(len(array), np.bool_))
    filled = flags_of(pc.greater(pc.binary_length(trim(array).array), 0))
    return Converted(out, filled & ~fits)


def _by_digits(
    array: TextArray,
    form: str,
    work: Callable[[TextArray], tuple[Integers, Flags]],
    kind: ArrowType,
    number: type[np.int32] | type[np.int64],
) -> Converted:
    """Values made from the digits at fixed places; `work` gets the texts of the right form alone."""
    text, fits = _of_form(array, form)
    values = np.zeros(len(array), number)
    if fits.any():
        found, exists = work(text.filter(from_numpy(fits)))
        where = np.flatnonzero(fits)
        values[where] = found
        fits[where] = exists
    out = pa.Array.from_buffers(
        kind, len(array), [pa.py_buffer(np.packbits(fits, bitorder="little")), pa.py_buffer(values)]
    )
    return _converted(array, fits, out)


def _digits(text: TextArray, width: int) -> Integers:
    """The characters of texts of one width as numbers: one row per text; what is no digit is of no use."""
    matrix = view(text).data[: len(text) * width].reshape(len(text), width)
    return matrix.astype(np.int64) - 48


def _number(digits: Integers, start: int, count: int) -> Integers:
    value = np.zeros(len(digits), np.int64)
    for offset in range(start, start + count):
        value = value * 10 + digits[:, offset]
    return value


def _days(digits: Integers) -> tuple[Integers, Flags]:
    """Days since 1970-01-01, and whether the day exists."""
    return days_since_epoch(_number(digits, 0, 4), _number(digits, 5, 2), _number(digits, 8, 2))


def days_since_epoch(year: Integers, month: Integers, day: Integers) -> tuple[Integers, Flags]:
    """Days since 1970-01-01 in the Gregorian calendar, and whether the day exists."""
    exists = (year >= 1) & (month >= 1) & (month <= 12)
    months = (year - 1970) * 12 + np.where(exists, month, 1) - 1
    first = months.astype("datetime64[M]").astype("datetime64[D]").astype(np.int64)
    following = (months + 1).astype("datetime64[M]").astype("datetime64[D]").astype(np.int64)
    exists &= (day >= 1) & (day <= following - first)
    return first + day - 1, exists


def _full_time(text: TextArray, shortest: int) -> TextArray:
    """Times of one width, with seconds and six places."""
    seconds = pc.if_else(pc.equal(pc.binary_length(text), shortest), ":00.", "")
    point = pc.if_else(pc.equal(pc.binary_length(text), shortest + 3), ".", "")
    return pc.ascii_rpad(
        pc.binary_join_element_wise(text, seconds, point, ""), width=shortest + 10, padding="0"
    )


def _microseconds(digits: Integers, start: int) -> tuple[Integers, Flags]:
    """Of the day, and whether there is such a time."""
    hour, minute, second = (_number(digits, start + offset, 2) for offset in (0, 3, 6))
    exists = (hour < 24) & (minute < 60) & (second < 60)
    whole = (hour * 60 + minute) * 60 + second
    return whole * 1_000_000 + _number(digits, start + 9, 6), exists


def cast_exactly(array: ColumnArray, kind: ArrowType) -> Converted:
    """Decimals as decimals of other places, or as integers of 64 bits; a value that the type cannot hold fails.

    Cast without checks, and compared with what comes back: one pass, however many fail.
    """
    rough = pc.cast(array, kind, safe=False)
    if pa.types.is_integer(kind):
        back = pc.cast(pc.cast(rough, pa.decimal128(19, 0)), array.type, safe=False)
        fits = flags_of(pc.equal(back, array))
    else:
        back = pc.cast(rough, array.type, safe=False)
        largest = pa.scalar(Decimal("9" * kind.precision).scaleb(-kind.scale, WIDE), kind)
        fits = flags_of(pc.and_(pc.equal(back, array), pc.less_equal(pc.abs(rough), largest)))
    failed = ~fits & flags_of(array.is_valid())
    return Converted(_only(rough, ~failed), failed)


WIDE = Context(prec=80)
