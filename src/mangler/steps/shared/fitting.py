"""Values put into a column that has a zone or stated places: they take over its very kind."""

from __future__ import annotations

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.expressions.reasons import ByCell
from mangler.expressions.value import Failure, failing
from mangler.kernels.arrow import ArrowType, ColumnArray, from_numpy
from mangler.kernels.text.patterns import flags_of
from mangler.kernels.values.convert import Converted, cast_exactly
from mangler.kernels.values.zones import on_clock


def fitted(array: ColumnArray, old: ColumnArray) -> tuple[ColumnArray, tuple[Failure, ...]]:
    """The values as the column that is there keeps them; one that does not fit in it fails."""
    kind = old.type
    if array.type == kind or pa.types.is_null(kind):
        return array, ()
    if pa.types.is_timestamp(kind) and pa.types.is_timestamp(array.type):
        done = _without_failing(array) if kind.tz is None else on_clock(array, kind.tz)
        what = (
            f"does not fit in a timestamp of {kind.unit}"
            if kind.tz is None
            else f"does not exist, or is there twice, on the clock of {kind.tz}"
        )
        if kind.unit != "us":
            done = _in_unit(done, kind)
    elif pa.types.is_time(kind) and pa.types.is_time(array.type):
        done = _without_failing(array.cast(kind))
        what = ""
    elif pa.types.is_decimal(kind) and pa.types.is_decimal(array.type):
        done = cast_exactly(array, kind)
        what = f"has more than {kind.scale} places"
    else:
        return array, ()
    return done.array, failing(done.failed, ByCell(array, lambda text: f'"{text}" {what}'))


def _without_failing(array: ColumnArray) -> Converted:
    return Converted(array, np.zeros(len(array), np.bool_))


def _in_unit(done: Converted, kind: ArrowType) -> Converted:
    """Timestamps of microseconds in another unit; one that the unit has no place for fails."""
    rough = pc.cast(done.array, kind, safe=False)
    fits = flags_of(pc.equal(pc.cast(rough, done.array.type, safe=False), done.array))
    failed = done.failed | (~fits & flags_of(done.array.is_valid()))
    return Converted(pc.if_else(from_numpy(~failed), rough, None), failed)
