from __future__ import annotations

import datetime
import struct
from decimal import Decimal
from typing import Any

import numpy as np
import pyarrow as pa
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.kernels.arrays import layouts
from tests.kernels.compiled.twins import built, by_numpy

from mangler.kernels.keys.hashed_keys import _with_bytes
from mangler.kernels.keys.keys import _dense, folded, hashes, keys_of, one_of_each
from mangler.kernels.keys.order import SortKey, classes, sort_order

TEXT = st.none() | st.text(st.sampled_from("aAbé "), max_size=3)
NUMBER = st.none() | st.integers(-3, 3)
ROWS = st.lists(st.tuples(TEXT, NUMBER), max_size=30)


def columns_of(rows: list[tuple[Any, Any]]) -> list[Any]:
    return [pa.array([row[0] for row in rows], pa.string()), pa.array([row[1] for row in rows], pa.int64())]


@given(ROWS)
def test_keys_are_numbered_as_they_come(rows: list[tuple[Any, Any]]) -> None:
    numbers: dict[Any, int] = {}
    expected = [numbers.setdefault(row, len(numbers)) for row in rows]
    keys = keys_of(columns_of(rows), len(rows))
    assert keys.codes.tolist() == expected
    assert keys.first.tolist() == [expected.index(number) for number in range(len(numbers))]
    assert keys.count == len(numbers)


@given(ROWS, st.booleans(), st.integers(0, 2))
def test_one_row_of_each_key(rows: list[tuple[Any, Any]], last: bool, width: int) -> None:
    chosen: dict[Any, int] = {}
    for number, row in enumerate(rows):
        if last or row[:width] not in chosen:
            chosen[row[:width]] = number
    found = one_of_each(columns_of(rows)[:width], len(rows), last)
    assert found.tolist() == sorted(chosen.values())


@given(st.lists(st.integers(0, 30), min_size=8, max_size=60))
def test_numbers_get_the_same_places_by_a_table_and_by_hashes(numbers: list[int]) -> None:
    """A table is used where it is not much larger than the rows are many."""
    codes = np.array(numbers)
    by_table, count = _dense(codes, 31)
    by_hashes, as_many = _dense(codes, 1 << 40)
    assert (by_table.tolist(), count) == (by_hashes.tolist(), as_many)


def test_one_row_of_each_of_many_columns() -> None:
    rng = np.random.default_rng(6)
    columns = [pa.array(rng.integers(0, 4000, 5000)) for _ in range(8)]  # too wide for one number
    double = [pa.concat_arrays([column, column]) for column in columns]
    assert one_of_each(double, 10_000).tolist() == list(range(5000))
    assert one_of_each(double, 10_000, last=True).tolist() == list(range(5000, 10_000))


def test_long_texts_that_differ_at_either_end() -> None:
    texts = ["x" * 200, "y" + "x" * 199, "x" * 199 + "y", "x" * 201, "x" * 8, "x" * 9, "x" * 7, "", None]
    found = hashes([pa.array(texts, pa.string())], len(texts)).tolist()
    assert len(set(found)) == len(texts)


def test_keys_of_no_columns_and_of_many() -> None:
    assert keys_of([], 3).codes.tolist() == [0, 0, 0]
    assert keys_of([], 0).count == 0
    rng = np.random.default_rng(5)
    columns = [
        pa.array(rng.integers(0, 4000, 5000)) for _ in range(8)
    ]  # 4,000 to the 8th does not fit in 62 bits
    assert keys_of(columns, 5000).count == len(set(zip(*(c.to_pylist() for c in columns), strict=True)))


@given(ROWS, st.integers(0, 3))
def test_equal_keys_have_equal_hashes_wherever_they_stand(rows: list[tuple[Any, Any]], level: int) -> None:
    columns = columns_of(rows)
    found = hashes(columns, len(rows), level).tolist()
    for one, row in enumerate(rows):
        for other in range(one):
            if rows[other] == row:
                assert found[one] == found[other]
    for array in layouts([row[0] for row in rows]):
        assert hashes([array, columns[1]], len(rows), level).tolist() == found


def test_hashes_spread_and_differ_by_level() -> None:
    column = pa.array([f"potter {n}" for n in range(10_000)])
    parts = np.bincount(hashes([column], 10_000) % 64, minlength=64)
    assert parts.min() > 80 and parts.max() < 260
    assert (hashes([column], 10_000, 1) != hashes([column], 10_000, 2)).all()


@given(ROWS, st.booleans(), st.booleans())
def test_stretches_are_in_the_order_of_their_rows(
    rows: list[tuple[Any, Any]], descending: bool, nulls_first: bool
) -> None:
    if not rows:
        return
    keys = [SortKey(descending, nulls_first=nulls_first), SortKey(nulls_first=nulls_first)]
    columns = columns_of(rows)
    order = sort_order(columns, keys)
    chosen = list(dict.fromkeys(rows[int(n)] for n in order))[::3]
    found = classes(columns, columns_of(chosen), keys)
    assert found[order].tolist() == sorted(found.tolist())
    for row, number in zip(rows, found.tolist(), strict=True):
        assert (number % 2 == 1) == (row in chosen)
        if number % 2:
            assert chosen[number // 2] == row


@pytest.mark.parametrize(
    ("values", "kind"),
    [
        ([3, -1, None, 2], pa.int64()),
        ([1.5, -0.5, None, 1e300], pa.float64()),
        ([True, None, False], pa.bool_()),
        ([datetime.date(2026, 5, 4), None, datetime.date(1999, 1, 1)], pa.date32()),
        ([datetime.time(9, 30), datetime.time(0, 0), None], pa.time64("us")),
        ([datetime.datetime(2026, 5, 4, 9), datetime.datetime(2026, 5, 4, 8), None], pa.timestamp("us")),
    ],
)
def test_every_type_has_its_order_and_its_keys(values: list[Any], kind: Any) -> None:
    column = pa.array([*values, *values], kind)
    arranged = column.take(pa.array(sort_order([column], [SortKey()]))).to_pylist()
    some = sorted([value for value in values if value is not None] * 2)
    assert arranged == [*some, None, None]
    assert keys_of([column], len(column)).count == len(values)
    found = hashes([column], len(column))
    assert (found[: len(values)] == found[len(values) :]).all()


def test_letter_case_is_folded_for_texts_only() -> None:
    assert folded(pa.array(["Ab"]), True).to_pylist() == ["ab"]
    assert folded(pa.array([1]), True).to_pylist() == [1]


WIDE = struct.unpack("<d", struct.pack("<Q", 0xFFF8000000000001))[0]
"""NaN in other bits than usual."""
POOLS: dict[Any, list[Any]] = {
    pa.string(): ["", "a", "ab", "x" * 40, "x" * 39 + "y", None],
    pa.float64(): [0.0, -0.0, float("nan"), WIDE, 1.5, float("inf"), None],
    pa.int8(): [1, -1, None],
    pa.uint64(): [2**64 - 1, 0, None],
    pa.date32(): [datetime.date(2020, 1, 1), datetime.date(1960, 1, 1), None],
    pa.timestamp("us"): [datetime.datetime(2020, 1, 1), None],
    pa.time64("us"): [datetime.time(1, 2), datetime.time(0), None],
    pa.bool_(): [True, False, None],
    pa.decimal128(10, 2): [Decimal("1.00"), Decimal("-1.00"), None],
}


@built
@settings(max_examples=400)
@given(st.data(), st.integers(1, 3), st.integers(0, 40), st.integers(0, 9))
def test_keys_have_the_same_numbers_as_by_numpy(
    data: st.DataObject, width: int, rows: int, skipped: int
) -> None:
    """Columns of any type, and slices of such, against a dictionary of the cells too."""
    columns = []
    for _ in range(width):
        kind = data.draw(st.sampled_from(list(POOLS)))
        cells = st.lists(st.sampled_from(POOLS[kind]), min_size=rows + skipped, max_size=rows + skipped)
        columns.append(folded(pa.array(data.draw(cells), kind).slice(skipped), False))
    found = keys_of(columns, rows)
    with by_numpy():
        wanted = keys_of(columns, rows)
    assert found.codes.tolist() == wanted.codes.tolist()
    assert found.first.tolist() == wanted.first.tolist()
    numbers: dict[Any, int] = {}
    told = zip(*(map(str, column.to_pylist()) for column in columns), strict=True)
    assert found.codes.tolist() == [numbers.setdefault(cells, len(numbers)) for cells in told]


def test_nan_is_one_key_whatever_its_bits_are() -> None:
    column = folded(pa.array([float("nan"), 1.0, WIDE, None]), False)
    assert keys_of([column], 4).codes.tolist() == [0, 1, 0, 2]


@built
def test_what_is_hashed_of_a_slice_is_as_large_wherever_it_starts() -> None:
    """Else the keys of a column, looked at slice by slice, would take time by the square of its cells."""
    column = pa.array([*range(5000), None])
    sizes = {_with_bytes(column.slice(start, 7)).buffers()[1].size for start in (0, 3, 4993)}
    assert sizes == {8 * 4}
    assert keys_of([column.slice(4994)], 7).codes.tolist() == list(range(7))
    assert keys_of([pa.nulls(3, pa.int64())], 3).codes.tolist() == [0, 0, 0]
