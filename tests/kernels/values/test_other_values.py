from __future__ import annotations

from typing import Any

import orjson
import pyarrow as pa
import pytest

from mangler.formats.json.values import json_values, spelled
from mangler.kernels.values.format_values import format_values

MOMENT = 1_777_887_000_000_000_001
NANOSECONDS: dict[str, tuple[Any, list[str | None]]] = {
    "list": (
        pa.array([[MOMENT, None], [], None], pa.list_(pa.timestamp("ns"))),
        ['["2026-05-04T09:30:00.000000001",null]', "[]", None],
    ),
    "list in a zone": (
        pa.array([[MOMENT]], pa.list_(pa.timestamp("ns", "UTC"))),
        ['["2026-05-04T09:30:00.000000001Z"]'],
    ),
    "struct": (
        pa.array(
            [{"t": 1, "n": 2}, {"t": None, "n": None}, None],
            pa.struct({"t": pa.time64("ns"), "n": pa.int8()}),
        ),
        ['{"t":"00:00:00.000000001","n":2}', '{"t":null,"n":null}', None],
    ),
    "map": (
        pa.array([[("a", MOMENT), ("a", 0)], None], pa.map_(pa.string(), pa.timestamp("ns"))),
        ['[["a","2026-05-04T09:30:00.000000001"],["a","1970-01-01T00:00:00"]]', None],
    ),
    "structs in a list": (
        pa.array([[{"d": 1}, None]], pa.list_(pa.struct({"d": pa.duration("ns")}))),
        ['[{"d":"PT0.000000001S"},null]'],
    ),
    "list of microseconds": (
        pa.array([[MOMENT // 1000]], pa.list_(pa.timestamp("us"))),
        ['["2026-05-04T09:30:00"]'],
    ),
}


@pytest.mark.parametrize("name", NANOSECONDS)
def test_times_inside_of_nested_values_keep_every_digit(name: str) -> None:
    array, texts = NANOSECONDS[name]
    assert format_values(array).to_pylist() == texts


@pytest.mark.parametrize("name", NANOSECONDS)
def test_json_has_the_same_times_inside_of_nested_values(name: str) -> None:
    array, texts = NANOSECONDS[name]
    written: list[Any] = [orjson.dumps(value, default=spelled).decode() for value in json_values(array)]
    assert written == ["null" if text is None else text for text in texts]
