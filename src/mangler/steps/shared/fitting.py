"""Values put into a column that has a zone or stated places: they take over its very kind."""

from __future__ import annotations

import pyarrow as pa

from mangler.expressions.reasons import ByCell
from mangler.expressions.value import Failure, failing
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.values.convert import cast_exactly
from mangler.kernels.values.zones import on_clock


def fitted(array: ColumnArray, old: ColumnArray) -> tuple[ColumnArray, tuple[Failure, ...]]:
    """The values as the column that is there keeps them; one that does not fit in it fails."""
    kind = old.type
    if array.type == kind or pa.types.is_null(kind):
        return array, ()
    if pa.types.is_timestamp(kind) and kind.tz is not None and pa.types.is_timestamp(array.type):
        done = on_clock(array, kind.tz)
        what = f"does not exist, or stands twice, on the clock of {kind.tz}"
    elif pa.types.is_decimal(kind) and pa.types.is_decimal(array.type):
        done = cast_exactly(array, kind)
        what = f"has more than {kind.scale} places"
    else:
        return array, ()
    return done.array, failing(done.failed, ByCell(array, lambda text: f'"{text}" {what}'))
