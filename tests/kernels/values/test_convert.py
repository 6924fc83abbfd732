from __future__ import annotations

import datetime
from decimal import Decimal
from typing import Any

import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.kernels.arrays import COLUMNS, layouts

from mangler.blanks import BLANKS
from mangler.kernels.values import convert
from mangler.kernels.values.format_values import format_values

ALL = {
    "integer": convert.to_integer,
    "float": convert.to_float,
    "decimal": convert.to_decimal,
    "boolean": convert.to_boolean,
    "date": convert.to_date,
    "time": convert.to_time,
    "timestamp": convert.to_timestamp,
}
VALUES: dict[str, st.SearchStrategy[Any]] = {
    "integer": st.integers(-(2**63), 2**63 - 1),
    "float": st.floats(allow_nan=False, allow_infinity=False),
    "decimal": st.decimals(-(10**20), 10**20, places=9),
    "boolean": st.booleans(),
    "date": st.dates(),
    "time": st.times(),
    "timestamp": st.datetimes(),
}


@pytest.mark.parametrize("kind", VALUES)
@given(data=st.data())
def test_what_is_spelled_is_read_back_the_same(kind: str, data: st.DataObject) -> None:
    values = data.draw(st.lists(st.none() | VALUES[kind], max_size=6))
    types = {
        "integer": pa.int64(),
        "float": pa.float64(),
        "decimal": convert.DECIMAL,
        "boolean": pa.bool_(),
        "date": pa.date32(),
        "time": pa.time64("us"),
        "timestamp": pa.timestamp("us"),
    }
    array = pa.array(values, types[kind])
    spelled = format_values(array)
    back = ALL[kind](spelled)
    back.array.validate(full=True)
    assert back.array.to_pylist() == array.to_pylist() and not back.failed.any()


@pytest.mark.parametrize("kind", ALL)
@given(COLUMNS)
def test_any_text_converts_or_fails_and_blank_is_null(kind: str, cells: list[str | None]) -> None:
    for array in layouts(cells):
        done = ALL[kind](array)
        done.array.validate(full=True)
        for cell, value, failed in zip(cells, done.array.to_pylist(), done.failed, strict=True):
            blank = cell is None or not cell.strip(BLANKS)
            assert not failed or (value is None and not blank)
            assert value is not None or failed or blank


@pytest.mark.parametrize(
    ("value", "text"),
    [
        (2.0, "2"),
        (0.1, "0.1"),
        (Decimal("0"), "0"),
        (Decimal("-0.50"), "-0.5"),
        (Decimal("100"), "100"),
        (Decimal("0.000000001"), "0.000000001"),
        (Decimal("-0.0000005"), "-0.0000005"),
        (True, "true"),
        (datetime.time(9, 30), "09:30:00"),
        (datetime.datetime(2026, 5, 4, 9, 30, 15, 250000), "2026-05-04T09:30:15.25"),
        (datetime.date(1, 1, 1), "0001-01-01"),
    ],
)
def test_the_shortest_form(value: Any, text: str) -> None:
    array = pa.array([value, None])
    if isinstance(value, Decimal):
        array = array.cast(convert.DECIMAL)
    assert format_values(array).to_pylist() == [text, None]


def test_zoned_timestamps_and_stated_places() -> None:
    moment = datetime.datetime(2026, 5, 4, 9, 30, tzinfo=datetime.UTC)
    assert format_values(pa.array([moment], pa.timestamp("us", "UTC")))[0].as_py() == "2026-05-04T09:30:00Z"
    assert (
        format_values(pa.array([moment], pa.timestamp("us", "Asia/Kolkata")))[0].as_py()
        == "2026-05-04T15:00:00+05:30"
    )
    assert format_values(pa.array([Decimal("1.5")], pa.decimal128(37, 3)))[0].as_py() == "1.500"
    assert format_values(pa.array([Decimal("7")], pa.decimal128(37, 0)))[0].as_py() == "7"


@pytest.mark.parametrize(
    "kind",
    [pa.int64(), pa.decimal128(38, 9), pa.decimal128(37, 0), pa.decimal128(37, 12), pa.decimal128(20, 2)],
)
@given(
    st.lists(
        st.none()
        | st.decimals(-(10**28), 10**28, places=9)
        | st.integers(-(10**29) + 1, 10**29 - 1).map(Decimal)
        | st.integers(-(2**63) - 1, 2**63).map(Decimal),
        max_size=6,
    )
)
def test_a_cast_is_exact_or_fails(kind: Any, values: list[Decimal | None]) -> None:
    done = convert.cast_exactly(pa.array(values, convert.DECIMAL), kind)
    expected: list[Any] = []
    for value in values:
        try:
            expected.append(None if value is None else pa.scalar(value, convert.DECIMAL).cast(kind).as_py())
        except pa.ArrowInvalid:
            expected.append("fails")
    cells = done.array.to_pylist()
    assert ["fails" if failed else one for one, failed in zip(cells, done.failed, strict=True)] == expected
    assert all(one is None for one, failed in zip(cells, done.failed, strict=True) if failed)


@pytest.mark.parametrize("places", range(12))
@pytest.mark.parametrize("front", ["", "7", "+12", "-0"])
def test_zeros_behind_nine_places_are_no_places(places: int, front: str) -> None:
    """As many as there are: the shortest text with ten places has eleven characters."""
    done = convert.to_decimal(pa.array([f"{front}.5{'0' * places}"]))
    assert done.array.to_pylist() == [Decimal(f"{front}.5")]


@pytest.mark.parametrize("text", ["+5", "5", "-5", "+", "5+"])
def test_a_sign_in_front_is_no_part_of_a_whole_number(text: str) -> None:
    done = convert.to_integer(pa.array([text, None]))
    try:
        expected = int(text)
    except ValueError:
        expected = None
    assert done.array.to_pylist() == [expected, None] and done.failed.tolist() == [expected is None, False]


@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("1e-400", None),
        ("-0.0000001e-320", None),
        ("1e400", None),
        ("0e-400", 0.0),
        ("0.000", 0.0),
        ("-0", 0.0),
        ("5e-324", 5e-324),
        ("1e0", 1.0),
    ],
)
def test_a_float_is_0_only_where_0_is_written(text: str, value: float | None) -> None:
    done = convert.to_float(pa.array([text]))
    assert (done.array.to_pylist(), done.failed.tolist()) == ([value], [value is None])


@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("9" * 6000, None),
        ("0" * 6000 + "7", 7),
        ("-9223372036854775808", -(2**63)),
        ("-9223372036854775809", None),
        ("9223372036854775808", None),
        ("+0009223372036854775807", 2**63 - 1),
    ],
)
def test_integers_end_at_64_bits(text: str, value: int | None) -> None:
    done = convert.to_integer(pa.array([text]))
    assert (done.array.to_pylist(), done.failed.tolist()) == ([value], [value is None])
