"""How long something takes, as people write it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.blanks import BLANK_CLASS
from mangler.expressions.conversion import shortened
from mangler.expressions.function import TEXT, Argument, Function, Parameter
from mangler.expressions.reasons import ByCell
from mangler.expressions.value import Frame, Value, failing
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.patterns import flags_of
from mangler.kernels.text.text_view import Flags, TextArray
from mangler.kernels.text.white_space import trim
from mangler.table.schema import ValueType

GAP = f"[{BLANK_CLASS}]*"
NUMBER = "[0-9]{1,9}"
PARTS = (
    ("d", "d|days?", 86_400),
    ("h", "h|hrs?|hours?", 3_600),
    ("m", "m|mins?|minutes?", 60),
    ("s", "s|secs?|seconds?", 1),
)
BY_UNITS = (
    "(?i)^"
    + "".join(f"(?:(?P<{name}>{NUMBER}){GAP}(?:{words}){GAP}(?:,{GAP})?)?" for name, words, _ in PARTS)
    + "$"
)
BY_COLONS = r"^(?P<h>[0-9]{1,6}):(?P<m>[0-5][0-9])(?::(?P<s>[0-5][0-9]))?$"


def _seconds(arguments: Sequence[Argument], frame: Frame) -> Value:
    array = Value(arguments[0]).array(frame.count)
    texts = trim(array).array
    by_units, units = _read(texts, BY_UNITS, {name: size for name, _, size in PARTS})
    by_colons, colons = _read(texts, BY_COLONS, {"h": 3_600, "m": 60, "s": 1})
    blank = flags_of(pc.equal(pc.binary_length(texts), 0))
    units &= ~blank  # every part of the form may be missing
    seconds = np.where(colons, by_colons, by_units)
    read = units | colons
    failed = flags_of(array.is_valid()) & ~read & ~blank
    reason = ByCell(array, lambda text: f'"{shortened(text)}" is not a length of time')
    return Value(pa.array(seconds, mask=~read), failing(failed, reason))


def _read(texts: TextArray, form: str, sizes: dict[str, int]) -> tuple[np.ndarray, Flags]:
    """The seconds of texts of a form, and which are of it."""
    fields = pc.extract_regex(texts, pattern=form)
    fits = flags_of(fields.is_valid())
    total = np.zeros(len(texts), np.int64)
    for name, size in sizes.items():
        total += _number(pc.struct_field(fields, name), fits) * size
    return total, fits


def _number(digits: ColumnArray, fits: Flags) -> np.ndarray:
    there = pc.and_(pa.array(fits), pc.fill_null(pc.not_equal(digits, ""), False))
    return np.asarray(pc.cast(pc.if_else(there, digits, "0"), pa.int64()))


FUNCTIONS = (
    Function(
        "seconds_in",
        (Parameter("text", TEXT),),
        ValueType.INTEGER,
        "How many seconds a length of time has: 1h 20m, 90 min, 2 days, 2:05:10 or 2:05, hours and minutes. Blank is"
        " null.",
        (
            ('seconds_in("1h 20m")', "4800"),
            ('seconds_in("2:05:10")', "7510"),
            ('seconds_in("90 min")', "5400"),
        ),
        _seconds,
    ),
)
