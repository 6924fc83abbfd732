"""Moments and times of day as text: with whole seconds, which have a way of their own, and without."""

from __future__ import annotations

import pyarrow as pa
import pytest

from mangler.kernels.values.time_text import format_times

SECOND = {"s": 1, "ms": 1_000, "us": 1_000_000, "ns": 1_000_000_000}


@pytest.mark.parametrize("unit", ["s", "ms", "us", "ns"])
@pytest.mark.parametrize("zone", [None, "Europe/Paris"])
def test_whole_seconds_are_spelled_as_beside_a_fraction(unit: str, zone: str | None) -> None:
    """A fraction in the column makes no difference to the other cells."""
    kind = pa.timestamp(unit, zone)
    seconds = [0, -1, -62_135_596_800, 253_402_300_799 if unit != "ns" else 9_000_000_000, 1_790_000_000]
    if unit == "ns":
        seconds[2] = -9_000_000_000
    whole = pa.array([second * SECOND[unit] for second in seconds] + [None], pa.int64()).cast(kind)
    told = format_times(whole).to_pylist()
    assert told[0] == ("1970-01-01T01:00:00+01:00" if zone else "1970-01-01T00:00:00") and told[-1] is None
    if unit != "s":
        mixed = pa.concat_arrays([whole, pa.array([1], pa.int64()).cast(kind)])
        assert format_times(mixed).to_pylist()[:-1] == told
        assert "." in format_times(mixed)[-1].as_py()


@pytest.mark.parametrize("kind", [pa.time32("s"), pa.time32("ms"), pa.time64("us"), pa.time64("ns")], ids=str)
def test_times_of_day(kind: pa.DataType) -> None:
    integers = pa.int32() if kind.bit_width == 32 else pa.int64()
    one = SECOND[kind.unit]
    assert format_times(pa.array([0, 86_399 * one, None], integers).cast(kind)).to_pylist() == [
        "00:00:00",
        "23:59:59",
        None,
    ]
    if one > 1:
        part = format_times(pa.array([one // 2, 60 * one], integers).cast(kind)).to_pylist()
        assert part == ["00:00:00.5", "00:01:00"]
