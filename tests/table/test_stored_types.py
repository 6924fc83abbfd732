from __future__ import annotations

import numpy as np
import pyarrow as pa
import pytest
from tests.formats.every_type.columns import EVERY, exact

from mangler.table.batch import Batch, NoOrigin
from mangler.table.schema import Column, Schema, ValueType
from mangler.table.spillable_rows import concat_batches
from mangler.table.stored_types import (
    arrow_type,
    changed,
    empty_columns,
    file_column,
    stored_batch,
    to_stored,
    to_worked,
    worked_type,
)
from mangler.table.types import ARROW


@pytest.mark.parametrize("name", EVERY)
def test_what_no_step_changes_is_stored_as_it_was(name: str) -> None:
    array = EVERY[name]
    column = file_column("c", array.type)
    assert arrow_type(column) == array.type
    worked = to_worked(array, column)
    assert worked.type == worked_type(column) == empty_columns(Schema((column,)))[0].type
    back = to_stored(worked, column)
    assert back.type == array.type and exact(back) == exact(array)


NOT_PUT_TOGETHER = {"union"}
"""Arrow has no way to choose and concatenate such rows."""


@pytest.mark.parametrize("name", sorted(EVERY.keys() - NOT_PUT_TOGETHER))
def test_rows_can_be_chosen_and_put_together(name: str) -> None:
    column = file_column("c", EVERY[name].type)
    worked = to_worked(EVERY[name], column)
    batch = Batch((worked,), np.arange(1, 5), NoOrigin())
    chosen = batch.filter(np.array([False, True, True, True])).slice(1, 2)
    both = concat_batches([chosen, chosen], NoOrigin())
    stored = stored_batch(both, Schema((column,))).columns[0]
    wanted = exact(EVERY[name])[2:]
    assert exact(stored) == wanted + wanted


@pytest.mark.parametrize(
    ("stored", "kind", "worked"),
    [
        (pa.int8(), ValueType.INTEGER, pa.int64()),
        (pa.uint64(), ValueType.DECIMAL, pa.decimal128(20, 0)),
        (pa.float32(), ValueType.FLOAT, pa.float64()),
        (pa.decimal128(12, 2), ValueType.DECIMAL, pa.decimal128(12, 2)),
        (pa.decimal256(20, 2), ValueType.DECIMAL, pa.decimal128(20, 2)),
        (pa.decimal256(60, 2), ValueType.OTHER, pa.decimal256(60, 2)),
        (pa.timestamp("ns", "UTC"), ValueType.TIMESTAMP, pa.timestamp("ns", "UTC")),
        (pa.dictionary(pa.int32(), pa.int16()), ValueType.INTEGER, pa.int64()),
        (pa.list_(pa.int64()), ValueType.LIST, pa.list_(pa.string())),
        (pa.struct([("a", pa.int64())]), ValueType.OTHER, pa.struct([("a", pa.int64())])),
    ],
)
def test_what_steps_take_types_of_files_for(stored: object, kind: ValueType, worked: object) -> None:
    column = file_column("c", stored)
    assert (column.type, worked_type(column)) == (kind, worked)


@pytest.mark.parametrize("kind", [kind for kind in ValueType if kind is not ValueType.OTHER])
def test_usual_types_are_stored_as_they_are(kind: ValueType) -> None:
    assert file_column("c", ARROW[kind]) == Column("c", kind)


def test_other_values_may_have_no_place_in_a_narrow_type() -> None:
    assert changed(file_column("c", pa.int8())) == Column("c", ValueType.INTEGER)
    assert changed(file_column("c", pa.float32())) == Column("c", ValueType.FLOAT)
    assert changed(file_column("c", pa.null())) == Column("c", ValueType.TEXT)
    assert changed(file_column("c", pa.json_(pa.string()))) == Column("c", ValueType.TEXT)
    for stored in (
        pa.large_string(),
        pa.dictionary(pa.int8(), pa.string()),
        pa.decimal128(12, 2),
        pa.timestamp("ms"),
    ):
        column = file_column("c", stored)
        assert changed(column) is column
