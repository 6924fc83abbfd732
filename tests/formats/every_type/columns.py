"""A column of every type that a file may have, with a null and with values at the edges."""

from __future__ import annotations

import datetime as dt
from decimal import Decimal
from typing import Any

import pyarrow as pa

PER_SECOND = {"s": 1, "ms": 1_000, "us": 1_000_000, "ns": 1_000_000_000}


def moments(unit: str, zone: str | None = None) -> Any:
    """The beginning of 1970, 2026-05-04T09:30 and the smallest part of the unit, and one part before 1970."""
    numbers = [0, 1_777_887_000 * PER_SECOND[unit] + 1, None, -1]
    return pa.array(numbers, pa.int64()).cast(pa.timestamp(unit, zone))


def _run_ends() -> Any:
    import pyarrow.compute as pc

    return pc.run_end_encode(pa.array(["a", "a", None, "b"]))


def _union() -> Any:
    kinds, offsets = pa.array([0, 1, 0, 1], pa.int8()), pa.array([0, 0, 1, 1], pa.int32())
    return pa.UnionArray.from_dense(kinds, offsets, [pa.array([1, 2]), pa.array(["a", "b"])])


EVERY: dict[str, Any] = {
    "boolean": pa.array([True, False, None, True]),
    **{
        f"int{bits}": pa.array([2 ** (bits - 1) - 1, -(2 ** (bits - 1)), None, 0], f"int{bits}")
        for bits in (8, 16, 32, 64)
    },
    **{f"uint{bits}": pa.array([2**bits - 1, 0, None, 7], f"uint{bits}") for bits in (8, 16, 32, 64)},
    "float16": pa.array([1.5, -0.25, None, 65504.0], pa.float16()),
    "float32": pa.array([0.1, -2.5, None, 3e38], pa.float32()),
    "float64": pa.array([0.1, -1e300, None, 5e-324]),
    "decimal32": pa.array([Decimal("1.20"), Decimal("-99999.99"), None, Decimal(0)], pa.decimal32(7, 2)),
    "decimal64": pa.array(
        [Decimal("1.20"), Decimal("-1234567890.99"), None, Decimal(0)], pa.decimal64(15, 2)
    ),
    "decimal128": pa.array([Decimal("1.20"), Decimal("-9.90"), None, Decimal(0)], pa.decimal128(12, 2)),
    "decimal of many digits": pa.array(
        [Decimal("9" * 30), Decimal("0.00"), None, Decimal(1)], pa.decimal128(38, 2)
    ),
    "decimal of many places": pa.array(
        [Decimal("0.123456789012345678"), Decimal("1"), None, Decimal(2)], pa.decimal128(30, 18)
    ),
    "decimal256": pa.array([Decimal("1" * 50), Decimal(0), None, Decimal(1)], pa.decimal256(60, 0)),
    "date32": pa.array([dt.date(2026, 5, 4), dt.date(1970, 1, 1), None, dt.date(1, 1, 1)]),
    "date64": pa.array([dt.date(2026, 5, 4), dt.date(1970, 1, 1), None, dt.date(1900, 1, 1)], pa.date64()),
    "time32 s": pa.array([dt.time(9, 30), dt.time(0), None, dt.time(23, 59, 59)], pa.time32("s")),
    "time32 ms": pa.array([34_200_123, 0, None, 86_399_999], pa.int32()).cast(pa.time32("ms")),
    "time64 us": pa.array([dt.time(9, 30, 0, 1), dt.time(0), None, dt.time(23)], pa.time64("us")),
    "time64 ns": pa.array([1_000_000_001, 0, None, 5], pa.int64()).cast(pa.time64("ns")),
    **{f"timestamp {unit}": moments(unit) for unit in ("s", "ms", "us", "ns")},
    "timestamp us in a zone": moments("us", "Europe/Paris"),
    "timestamp ns in UTC": moments("ns", "UTC"),
    "duration": pa.array([1, -90_000_000, None, 0], pa.duration("us")),
    "interval": pa.array([(1, 2, 3), (0, 0, 0), None, (-1, 0, 5)], pa.month_day_nano_interval()),
    "text": pa.array(["a", "", None, "Ó,\n\"'"]),
    "large text": pa.array(["a", "", None, "Ó"], pa.large_string()),
    "text view": pa.array(["a", "", None, "longer than twelve bytes"], pa.string_view()),
    "dictionary of texts": pa.array(["a", "b", None, "a"]).cast(pa.dictionary(pa.int8(), pa.string())),
    "ordered dictionary": pa.DictionaryArray.from_arrays(
        pa.array([1, 0, None, 1], pa.int16()), pa.array(["low", "high"]), ordered=True
    ),
    "dictionary of integers": pa.array([5, 7, None, 5]).dictionary_encode(),
    "run ends": _run_ends(),
    "nothing": pa.nulls(4),
    "binary": pa.array([b"\x00\xff", b"", None, b"abc"]),
    "large binary": pa.array([b"\x00\xff", b"", None, b"abc"], pa.large_binary()),
    "binary view": pa.array([b"\x00\xff", b"", None, b"longer than twelve bytes"], pa.binary_view()),
    "fixed binary": pa.array([b"ab", b"\x00\x00", None, b"cd"], pa.binary(2)),
    "list of texts": pa.array([["a", "b"], [], None, ["c", None]]),
    "large list of texts": pa.array([["a", "b"], [], None, ["c"]], pa.large_list(pa.string())),
    "list view of texts": pa.array([["a", "b"], [], None, ["c"]], pa.list_view(pa.string())),
    "fixed list of texts": pa.array([["a", "b"], ["c", "d"], None, ["e", None]], pa.list_(pa.string(), 2)),
    "list of integers": pa.array([[1, -2], [], None, [3, None]]),
    "list of floats": pa.array([[0.1, 2.0], [], None, [1e-9]]),
    "list of booleans": pa.array([[True], [], None, [False, None]]),
    "list of lists": pa.array([[[1], []], [], None, [[2, 3]]]),
    "struct": pa.array([{"a": 1, "b": "x"}, {"a": None, "b": ""}, None, {"a": 2, "b": None}]),
    "list of structs": pa.array([[{"a": 1}], [], None, [{"a": 2}, None]]),
    "map": pa.array([[("a", 1)], [], None, [("b", None)]], pa.map_(pa.string(), pa.int64())),
    "union": _union(),
    "uuid": pa.array([bytes(range(16)), bytes(16), None, b"\xff" * 16], pa.uuid()),
    "json": pa.ExtensionArray.from_storage(pa.json_(pa.string()), pa.array(['{"a":1}', "[]", None, '"x"'])),
}


def table(*left_out: str) -> Any:
    """A table of all of them, under their names here."""
    chosen = {name: array for name, array in EVERY.items() if name not in left_out}
    return pa.table(list(chosen.values()), names=list(chosen))


def exact(array: Any) -> list[Any]:
    """The values in Python's types, moments as nanoseconds: Python's own have none."""
    if pa.types.is_time(array.type) or pa.types.is_timestamp(array.type):
        unit = getattr(array.type, "unit")  # noqa: B009 - pyarrow has no types
        width = pa.int32() if pa.types.is_time32(array.type) else pa.int64()
        times = {"s": 10**9, "ms": 10**6, "us": 10**3, "ns": 1}[unit]
        return [None if one is None else one * times for one in array.cast(width).to_pylist()]
    return list(array.to_pylist())
