"""Each type of values as Arrow keeps it."""

from __future__ import annotations

import pyarrow as pa

from mangler.kernels.arrow import ColumnArray
from mangler.kernels.values.convert import (
    DECIMAL,
    Converted,
    to_boolean,
    to_date,
    to_decimal,
    to_float,
    to_integer,
    to_time,
    to_timestamp,
)
from mangler.table.schema import ValueType

ARROW = {
    ValueType.TEXT: pa.string(),
    ValueType.INTEGER: pa.int64(),
    ValueType.FLOAT: pa.float64(),
    ValueType.DECIMAL: DECIMAL,
    ValueType.BOOLEAN: pa.bool_(),
    ValueType.DATE: pa.date32(),
    ValueType.TIME: pa.time64("us"),
    ValueType.TIMESTAMP: pa.timestamp("us"),
    ValueType.LIST: pa.list_(pa.string()),
}

FROM_TEXT = {
    ValueType.INTEGER: to_integer,
    ValueType.FLOAT: to_float,
    ValueType.DECIMAL: to_decimal,
    ValueType.BOOLEAN: to_boolean,
    ValueType.DATE: to_date,
    ValueType.TIME: to_time,
    ValueType.TIMESTAMP: to_timestamp,
}
NUMERIC = (ValueType.INTEGER, ValueType.FLOAT, ValueType.DECIMAL)


def from_text(array: ColumnArray, kind: ValueType) -> Converted:
    """Texts as values of a type, in the forms that need no saying."""
    return FROM_TEXT[kind](array)
