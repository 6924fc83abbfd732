"""Numbers and moments written by the compiled kernel, against Arrow's writing and Python's."""

from __future__ import annotations

import datetime
from decimal import Context, Decimal

import pyarrow as pa
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.kernels.compiled.twins import built, by_numpy

from mangler.kernels.values.format_values import format_values

WIDE = Context(prec=60)
NUMBERS = st.one_of(
    st.none(),
    st.integers(-(2**63), 2**63 - 1),
    st.integers(-1000, 1000),
    st.sampled_from([0, 10**9, -(10**9), 5, 10**18, -(2**63), 2**63 - 1, 2**63, -(2**63) - 1, 2**70]),
)
SECONDS = st.one_of(
    st.none(),
    st.integers(-62_135_596_800, 253_402_300_799),
    st.sampled_from([0, -1, 86_399, 951_782_399, 951_782_400, -62_135_596_800, 253_402_300_799]),
)


@built
@settings(max_examples=500)
@given(st.lists(NUMBERS, max_size=12), st.sampled_from([0, 1, 2, 9, 15]), st.integers(0, 3))
def test_decimals_are_those_of_arrow(units: list[int | None], places: int, start: int) -> None:
    """Also as slices, and where one has more digits than the kernel writes."""
    values = [None if one is None else Decimal(one).scaleb(-places, WIDE) for one in units]
    column = pa.array(values, pa.decimal128(38, places)).slice(min(start, len(values)))
    found = format_values(column)
    found.validate(full=True)
    with by_numpy():
        assert found.to_pylist() == format_values(column).to_pylist()
    for text, value in zip(found.to_pylist(), column.to_pylist(), strict=True):
        assert (text is None) == (value is None)
        assert text is None or Decimal(text) == value


@built
@settings(max_examples=300)
@given(
    st.lists(st.one_of(st.none(), st.integers(-(2**63), 2**63 - 1), st.integers(-11, 11)), max_size=12),
    st.integers(0, 3),
)
def test_integers_are_those_of_python(numbers: list[int | None], start: int) -> None:
    column = pa.array(numbers, pa.int64()).slice(min(start, len(numbers)))
    found = format_values(column)
    found.validate(full=True)
    assert found.to_pylist() == [None if one is None else str(one) for one in column.to_pylist()]


@built
@settings(max_examples=500)
@given(st.lists(SECONDS, max_size=12), st.sampled_from(["s", "ms", "us"]), st.integers(0, 3))
def test_moments_are_those_of_arrow(seconds: list[int | None], unit: str, start: int) -> None:
    times = {"s": 1, "ms": 1000, "us": 1_000_000}[unit]
    numbers = [None if one is None else one * times for one in seconds]
    column = pa.array(numbers, pa.int64()).cast(pa.timestamp(unit)).slice(min(start, len(numbers)))
    found = format_values(column)
    found.validate(full=True)
    with by_numpy():
        assert found.to_pylist() == format_values(column).to_pylist()
    for text, second in zip(found.to_pylist(), seconds[min(start, len(numbers)) :], strict=True):
        if second is not None:
            moment = datetime.datetime(1970, 1, 1) + datetime.timedelta(seconds=second)
            assert text == moment.isoformat()


@built
@pytest.mark.parametrize("second", [-62_135_596_801, 253_402_300_800, 10**12])
def test_years_of_other_digits_are_left_to_arrow(second: int) -> None:
    column = pa.array([0, second], pa.int64()).cast(pa.timestamp("s"))
    found = format_values(column)
    with by_numpy():
        assert found.to_pylist() == format_values(column).to_pylist()


@built
def test_every_day_of_an_era() -> None:
    """The calendar comes back after 400 years."""
    days = pa.array(range(-146_097 // 2, 146_097 // 2 + 1), pa.int32()).cast(pa.date32())
    written = format_values(days.cast(pa.timestamp("s"))).to_pylist()
    assert [text.removesuffix("T00:00:00") for text in written] == [
        day.isoformat() for day in days.to_pylist()
    ]


@built
def test_more_cells_than_have_places_are_left_to_arrow(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("mangler.kernels.values.format_values.MOST_AT_ONCE", 2)
    monkeypatch.setattr("mangler.kernels.values.time_text.MOST_AT_ONCE", 2)
    monkeypatch.setattr("mangler.kernels.compiled.spelled", _Refusing())
    assert format_values(pa.array([1, 2, 3])).to_pylist() == ["1", "2", "3"]
    decimals = pa.array([Decimal("1.50")] * 3, pa.decimal128(9, 2))
    assert format_values(decimals).to_pylist() == ["1.50"] * 3
    moments = pa.array([0, 1, 2], pa.timestamp("s"))
    assert format_values(moments)[2].as_py() == "1970-01-01T00:00:02"


class _Refusing:
    def __getattr__(self, name: str) -> None:
        raise AssertionError(f"{name} was called")
