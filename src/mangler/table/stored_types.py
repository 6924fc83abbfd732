"""The types in which files hold their columns, and the ones in which steps see them.

A column that no step changes is written in the very type that it was read in. Steps know one type of integers, of
floats, of texts; so a column is read into the type that steps work on, and its `stored` type says what happens to it
when it is written. Both ways are exact.
"""

from __future__ import annotations

from collections.abc import Iterable

import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.arrow import ArrowType, ColumnArray
from mangler.kernels.text.dictionary import as_dictionary
from mangler.kernels.text.fields import entries_of
from mangler.table.batch import Batch
from mangler.table.schema import Column, Schema, ValueType
from mangler.table.types import ARROW

LARGEST_PRECISION = 38
"""Digits of the decimals that steps work on."""
BIG_INTEGER = pa.decimal128(20, 0)
"""Holds every unsigned integer of 64 bits."""


def file_column(name: str, stored: ArrowType) -> Column:
    """The column that steps see of one that a file holds in this type."""
    kind, _ = _worked(stored)
    plain = kind is not ValueType.OTHER and stored == ARROW[kind]
    return Column(name, kind, None if plain else stored)


def arrow_type(column: Column) -> ArrowType:
    """The type in which a column is written."""
    return ARROW[column.type] if column.stored is None else column.stored


def worked_type(column: Column) -> ArrowType:
    """The type of the arrays in which steps see a column that comes from a file."""
    return _worked(arrow_type(column))[1]


def to_worked(array: ColumnArray, column: Column) -> ColumnArray:
    """The cells of a file as steps see them. Exact, except that a null of any type is a null of texts."""
    return array if column.stored is None else _decoded(array, worked_type(column))


def to_stored(array: ColumnArray, column: Column) -> ColumnArray:
    """The cells as they are written. Raises ArrowInvalid where one does not fit in the type."""
    target = arrow_type(column)
    return array if array.type == target else _encoded(array, target)


def stored_batch(batch: Batch, schema: Schema) -> Batch:
    """A batch that comes out of the last step, in the types in which it is written."""
    if all(column.stored is None for column in schema.columns):
        return batch
    columns = entries_of(batch.columns)
    for index, column in enumerate(schema.columns):
        if column.stored is not None:
            columns[index] = to_stored(batch.columns[index], column)
    return batch.with_columns(columns)


def taken(array: ColumnArray, indices: ColumnArray) -> ColumnArray:
    """Cells of a file, in its own type. Arrow chooses no rows of some types, but of the ones that steps see."""
    column = file_column("", array.type)
    return to_stored(to_worked(array, column).take(indices), column)


def empty_columns(schema: Schema) -> tuple[ColumnArray, ...]:
    """The columns of a table as steps see it, without rows."""
    return tuple(pa.nulls(0, worked_type(column)) for column in schema.columns)


def changed(column: Column) -> Column:
    """The column after a step that put other values into it, of the type that steps see.

    A small integer, a short float and a column of nothing but nulls may have no place for such values.
    """
    stored = column.stored
    keeps = stored is not None and (
        (column.type is ValueType.TEXT and not pa.types.is_null(stored) and not is_json(stored))
        or (
            column.type in (ValueType.DECIMAL, ValueType.TIMESTAMP, ValueType.TIME)
            and worked_type(column) == stored
        )
    )
    return column if stored is None or keeps else Column(column.name, column.type)


def with_changed(schema: Schema, indices: Iterable[int]) -> Schema:
    """The schema after a step that put other values into these columns, of the types that steps see."""
    chosen = set(indices)
    columns = tuple(changed(column) if i in chosen else column for i, column in enumerate(schema.columns))
    return schema if columns == schema.columns else Schema(columns, schema.gone)


def describe_type(column: Column) -> str:
    """The type of a column in a message: that of the file where steps do not know it."""
    return str(column.stored) if column.type is ValueType.OTHER else str(column.type)


def _worked(stored: ArrowType) -> tuple[ValueType, ArrowType]:
    """What steps take a type of a file for, and the Arrow type in which they see it."""
    for is_such, kind in _SIMPLE:
        if is_such(stored):
            return kind, ARROW[kind]
    if pa.types.is_uint64(stored):
        return ValueType.DECIMAL, BIG_INTEGER
    if pa.types.is_decimal(stored):
        return _worked_decimal(stored)
    if pa.types.is_time(stored):
        return ValueType.TIME, stored if stored.unit == "ns" else ARROW[ValueType.TIME]
    if pa.types.is_timestamp(stored):
        return ValueType.TIMESTAMP, stored
    if pa.types.is_dictionary(stored) or pa.types.is_run_end_encoded(stored):
        return _worked(stored.value_type)
    if _is_list(stored) and _is_element(stored.value_type):
        return ValueType.LIST, ARROW[ValueType.LIST]
    if stored == pa.binary_view():  # Arrow chooses no rows of it
        return ValueType.OTHER, pa.binary()
    return ValueType.OTHER, stored


def _is_text(kind: ArrowType) -> bool:
    return bool(
        pa.types.is_string(kind)
        or pa.types.is_large_string(kind)
        or pa.types.is_string_view(kind)
        or pa.types.is_null(kind)
        or is_json(kind)
    )


def is_json(kind: ArrowType) -> bool:
    """Whether values are texts that are JSON themselves."""
    return isinstance(kind, pa.BaseExtensionType) and str(kind).startswith("extension<arrow.json")


def _is_small_integer(kind: ArrowType) -> bool:
    return pa.types.is_integer(kind) and not pa.types.is_uint64(kind)


_SIMPLE = (
    (_is_text, ValueType.TEXT),
    (_is_small_integer, ValueType.INTEGER),
    (pa.types.is_floating, ValueType.FLOAT),
    (pa.types.is_boolean, ValueType.BOOLEAN),
    (pa.types.is_date, ValueType.DATE),
)


def _worked_decimal(stored: ArrowType) -> tuple[ValueType, ArrowType]:
    """A decimal with its own places. One of more than 38 digits, or of negative places, is not worked on."""
    if stored.precision > LARGEST_PRECISION or not 0 <= stored.scale <= stored.precision:
        return ValueType.OTHER, stored
    return ValueType.DECIMAL, pa.decimal128(stored.precision, stored.scale)


def _is_list(kind: ArrowType) -> bool:
    return bool(
        pa.types.is_list(kind)
        or pa.types.is_large_list(kind)
        or pa.types.is_fixed_size_list(kind)
        or _is_list_view(kind)
    )


def _is_element(kind: ArrowType) -> bool:
    """Whether a list of such values is a list of texts to steps: their spelling gives back the same values."""
    if pa.types.is_null(kind):
        return False
    return (
        _is_text(kind) or pa.types.is_integer(kind) or pa.types.is_float64(kind) or pa.types.is_boolean(kind)
    )


def _decoded(array: ColumnArray, target: ArrowType) -> ColumnArray:
    """An array of a file in the type that steps see."""
    if array.type == target:
        return array
    if pa.types.is_run_end_encoded(array.type):
        return _decoded(pc.run_end_decode(array), target)
    if isinstance(array.type, pa.BaseExtensionType):
        return _decoded(array.storage, target)
    if pa.types.is_dictionary(array.type):
        return _decoded(array.dictionary_decode(), target)
    if pa.types.is_decimal(array.type) and array.type.bit_width < target.bit_width:
        # Arrow asks for room for every number of the narrow type, and not only for those of its precision.
        return pc.cast(array, target, safe=False)
    if _is_list_view(array.type):  # Arrow's own cast takes wrong bounds
        return pa.array(array.to_pylist(), pa.list_(array.type.value_type)).cast(target)
    return pc.cast(array, target)


def _is_list_view(kind: ArrowType) -> bool:
    return bool(pa.types.is_list_view(kind) or pa.types.is_large_list_view(kind))


def _encoded(array: ColumnArray, target: ArrowType) -> ColumnArray:
    """An array of steps in the type of a file."""
    if array.type == target:
        return array
    if pa.types.is_null(target):
        return pa.nulls(len(array))
    if is_json(target):
        return pa.ExtensionArray.from_storage(target, _encoded(array, target.storage_type))
    if pa.types.is_run_end_encoded(target):
        values = _encoded(array, target.value_type)
        return pc.run_end_encode(values, run_end_type=target.run_end_type)
    if pa.types.is_dictionary(target):
        encoded = as_dictionary(_encoded(array, target.value_type))
        indices = encoded.indices.cast(target.index_type)
        return pa.DictionaryArray.from_arrays(indices, encoded.dictionary, ordered=target.ordered)
    if _is_list_view(target):
        return _list_view(array, target)
    narrows = pa.types.is_floating(target) and pa.types.is_floating(array.type)
    return pc.cast(array, target, safe=not narrows)


def _list_view(array: ColumnArray, target: ArrowType) -> ColumnArray:
    large = pa.types.is_large_list_view(target)
    plain = pc.cast(array, pa.large_list(target.value_field) if large else pa.list_(target.value_field))
    make = pa.LargeListViewArray if large else pa.ListViewArray
    sizes = pc.fill_null(pc.list_value_length(plain), 0).cast(pa.int64() if large else pa.int32())
    return make.from_arrays(
        plain.offsets.slice(0, len(plain)), sizes, plain.values, target, mask=plain.is_null()
    )
