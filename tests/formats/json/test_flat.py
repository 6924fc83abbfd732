"""Pieces of plain objects read as columns: the same values as the exact way gives, or no answer."""

from __future__ import annotations

import io
from pathlib import Path as FilePath
from typing import Any

import pyarrow as pa
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from mangler.formats.json import scan
from mangler.formats.json.columns import facts_by_path, values_by_path
from mangler.formats.json.exact import rows_of
from mangler.formats.json.flat import facts_of_column, flat_columns, plain_schema
from mangler.formats.json.splitting import Layout, Piece, pieces

SCHEMA = pa.schema([("a", pa.int64()), ("b", pa.float64()), ("c", pa.string()), ("d", pa.bool_())])
PLAIN = b'{"a":1,"b":2.5,"c":"x","d":true}\n{"a":null,"b":-0.5,"c":"\\u00e9\\n","d":null}\n{}\n'
VALUES = [
    *(
        "1",
        "-0",
        "2.5",
        "1e5",
        "9007199254740993",
        "0.1234567890123456789",
        "1e400",
        "01",
        "1.",
        "NaN",
        "-Infinity",
    ),
    *(
        '"x"',
        '"Zoë"',
        '"\\ud800"',
        '"\\ud83d\\ude00"',
        '"{"',
        '": ["',
        '"a\tb"',
        '"1"',
        '"2026-05-25T19:06:37"',
    ),
    *("true", "null", "nul", "{}", "[]", '{"e":1}', "[1, 2]", "", "18446744073709551615"),
]
OBJECTS = st.lists(
    st.tuples(st.sampled_from(["a", "b", "c", "d", "e", "\\u0061", ""]), st.sampled_from(VALUES)), max_size=5
).map(lambda pairs: "{" + ",".join(f'"{key}":{value}' for key, value in pairs) + "}")
LINES = st.one_of(
    OBJECTS, OBJECTS, st.sampled_from(["null", "", "  ", "{}{}", "{} x", '{"a":', "1}", "[1]", "{},"])
)


def piece_of(content: bytes) -> Piece:
    return next(iter(pieces(io.BytesIO(content), Layout.LINES, 1 << 20, "e.jsonl")))


@given(st.lists(LINES, min_size=1, max_size=4), st.sampled_from(["\n", "\r\n", " \n"]), st.binary(max_size=1))
@example(['{"a":1}', "null"], "\n", b"")
@example(['{"b":NaN}'], "\n", b"")
@example(['{"a":1}{"a":2}', ""], "\n", b"")
@example(['{"c":"'], "\n", b"\xff")
@example(['{"b":-0}'], "\n", b"")
def test_what_is_read_as_columns_equals_the_exact_way(lines: list[str], line_end: str, stray: bytes) -> None:
    content = (line_end.join(lines)).encode() + stray + line_end.encode()
    if not content.strip():
        return
    piece = piece_of(content)
    record = flat_columns(piece, SCHEMA)
    if record is None:
        return
    rows, reasons = rows_of(piece.texts)
    assert not reasons
    values = values_by_path(rows)
    for name in SCHEMA.names:
        exact = values[(name,)].values if (name,) in values else [None] * len(rows)
        assert repr(record.column(name).to_pylist()) == repr(
            [float(one) if name == "b" and one is not None else one for one in exact]
        )


@pytest.mark.parametrize("line_end", [b"\n", b"\r\n"])
def test_plain_objects_are_read_as_columns(line_end: bytes) -> None:
    record = flat_columns(piece_of(PLAIN.replace(b"\n", line_end)), SCHEMA)
    assert record is not None
    assert record.to_pydict() == {
        "a": [1, None, None],
        "b": [2.5, -0.5, None],
        "c": ["x", "é\n", None],
        "d": [True, None, None],
    }


def test_what_is_seen_of_a_column_is_what_is_seen_of_its_values() -> None:
    rows = [{"a": 5, "c": "x"}, {"a": -3, "c": None}]
    record = pa.RecordBatch.from_pydict({"a": [5, -3], "c": ["x", None]})
    facts = facts_by_path(values_by_path(rows))
    assert facts == {(name,): facts_of_column(record.column(name)) for name in ("a", "c")}
    assert plain_schema(facts) == record.schema


@pytest.mark.parametrize(
    "line", ['{"a":{"b":1}}', '{"a":[1]}', '{"a":18446744073709551615}', '{"a":1}\n{"a":"x"}']
)
def test_a_file_with_other_values_has_no_plain_columns(line: str) -> None:
    rows, _ = rows_of([one.encode() for one in line.split("\n")])
    assert plain_schema(facts_by_path(values_by_path(rows))) is None


ODD_LINES = st.sampled_from(
    [
        '{"a":2,"b":0.5,"c":"y"}',
        '{"a":7,"c":"é"}',
        '{"a":1.5}',
        '{"c":3}',
        '{"new":true}',
        '{"b":7}',
        '{"b":null,"a":null}',
        "no object",
        '{"a":{"x":1}}',
        '{"b":0.1234567890123456789}',
    ]
)


@given(st.lists(ODD_LINES, max_size=12), st.sampled_from([40, 90, 400]))
def test_a_table_does_not_depend_on_how_its_pieces_were_read(lines: list[str], size: int) -> None:
    content = "".join(f"{line}\n" for line in ['{"a":1,"b":0.25,"c":"x"}', *lines])
    with pytest.MonkeyPatch.context() as patch:
        tables = []
        for piece, vain in ((1 << 20, 8), (size, 8), (size, 0)):
            patch.setattr(scan, "PIECE", piece)
            patch.setattr("mangler.formats.json.read_ahead.MOST_VAIN", vain)
            tables.append(_table(content, patch))
    assert tables[0] == tables[1] == tables[2]


def _table(content: str, patch: pytest.MonkeyPatch) -> Any:
    path = FilePath("e.jsonl")
    patch.setattr(FilePath, "open", lambda *_: io.BytesIO(content.encode()))
    found = scan.scan(path, Layout.LINES, "e.jsonl", len(content), None)
    columns = {
        path: (str(target.type), target.is_tree, target.mixed) for path, target in found.columns.items()
    }
    rows = [
        (
            one.row_count,
            [array.to_pylist() for array in record.columns],
            spans.column("unfit").to_pylist(),
        )
        for one, record, spans in scan.partitions_of(found)
    ]
    found.close()
    return columns, rows
