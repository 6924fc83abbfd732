"""Columns as JSON: the very text that orjson writes for each value."""

from __future__ import annotations

from decimal import Decimal
from typing import Any

import numpy as np
import orjson
import pyarrow as pa
import pyarrow.compute as pc
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mangler.formats.json.sink import JsonSink, template_of
from mangler.formats.json.texts import json_texts
from mangler.table.batch import Batch, NoOrigin

TEXTS = st.one_of(st.text(max_size=6), st.text('"\\\n\t\x00\x7f é', max_size=4))
COLUMNS = st.one_of(
    st.tuples(st.just(pa.string()), st.lists(st.none() | TEXTS)),
    st.tuples(st.just(pa.int64()), st.lists(st.none() | st.integers(-(2**63), 2**63 - 1))),
    st.tuples(st.just(pa.float64()), st.lists(st.none() | st.floats())),
    st.tuples(st.just(pa.bool_()), st.lists(st.none() | st.booleans())),
    st.tuples(st.just(pa.list_(pa.string())), st.lists(st.none() | st.lists(TEXTS, max_size=3))),
)


@given(COLUMNS, st.integers(0, 3))
def test_each_cell_is_what_orjson_writes(column: tuple[Any, list[Any]], skipped: int) -> None:
    kind, values = column
    texts = json_texts(pa.array(values, kind).slice(min(skipped, len(values))))
    assert texts.to_pylist() == [orjson.dumps(value).decode() for value in values[skipped:]]


@pytest.mark.parametrize(
    ("array", "written"),
    [
        (pa.array([Decimal("1.50"), None], pa.decimal128(5, 2)), ["1.50", "null"]),
        (pa.array(['a"', "b", None]).dictionary_encode(), ['"a\\""', '"b"', "null"]),
        (pa.array([0.1, None], pa.float32()), ["0.1", "null"]),
        (pa.array(['{"x":1}', None], pa.json_(pa.string())), ['{"x":1}', "null"]),
        (pa.array([None, None], pa.null()), ["null", "null"]),
        (pa.array([0], pa.timestamp("ms")), ['"1970-01-01T00:00:00"']),
        (pa.array([{"x": Decimal("2.50")}], pa.struct([("x", pa.decimal128(5, 2))])), ['{"x":2.50}']),
    ],
)
def test_other_types(array: Any, written: list[str]) -> None:
    assert json_texts(array).to_pylist() == written


def test_keys_are_spelled_as_json() -> None:
    assert template_of([('a"b', 0), ("é", [("\n", 1)])]) == ['{"a\\"b":', 0, ',"é":', '{"\\n":', 1, "}", "}"]


def test_rows_too_large_for_one_column_are_written_in_parts(monkeypatch: pytest.MonkeyPatch) -> None:
    """A value of a dictionary may be small in memory and are in many rows. Here a column holds two cells."""
    large = pa.DictionaryArray.from_arrays(pa.array([0] * 5), pa.array(["x" * 4]))
    sink = JsonSink(None, rehearse=True, in_array=False)
    whole = pc.binary_join_element_wise

    def full(*pieces: Any) -> Any:
        if len(pieces) > 3 and max(len(piece) for piece in pieces if not isinstance(piece, str)) > 2:
            raise pa.ArrowCapacityError("array cannot contain more than 2147483646 bytes")
        return whole(*pieces)

    monkeypatch.setattr("mangler.formats.json.sink.pc.binary_join_element_wise", full)
    sink._template = ['{"a":', 0, "}\n"]
    encoded = sink.encode(Batch((large,), np.arange(5), NoOrigin()))
    assert encoded.content == b"\n".join([b'{"a":"xxxx"}'] * 5) and encoded.rows == 5
