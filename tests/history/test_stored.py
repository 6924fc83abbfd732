"""A history that is damaged, of another version, or made to do harm: what can be read of it is, and nothing fails."""

from __future__ import annotations

import json
import sqlite3
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mangler.engine.run.summary import Summary
from mangler.history.store import History, State
from mangler.history.stored import has_shape, is_fingerprint, object_of
from mangler.insight.fingerprint.fingerprint import ColumnPrint, Fingerprint

ACCOUNT = Summary("r", "t", "e.csv").to_json()
FINGERPRINT = Fingerprint(";", "UTF-8", [ColumnPrint("kiln", 3, 1, {"007": 2})], 3).to_json()
JSON = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats(allow_nan=False) | st.text(max_size=3),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=3), inner, max_size=3),
    max_leaves=6,
)


def write(path: Path, number: int, **columns: Any) -> None:
    """Changes what is stored of a run, as anybody could."""
    connection = sqlite3.connect(path)
    for name, value in columns.items():
        connection.execute(f"UPDATE run SET {name} = ? WHERE number = ?", (value, number))
    connection.commit()
    connection.close()


@pytest.mark.parametrize(
    "columns",
    [
        {"account": "no JSON"},
        {"account": "[" * 100_000},
        {"account": json.dumps({**ACCOUNT, "balance": []})},
        {"account": json.dumps({**ACCOUNT, "seconds": "long"})},
        {"account": '{"seconds": NaN}'},
        {"account": '{"seconds": ' + "9" * 5000 + "}"},
        {"account": b"\x00\xff"},
        {"state": "sent by pigeon"},
        {"state": b"delivered"},
        {"state": 7},
    ],
    ids=str,
)
def test_a_row_that_cannot_be_read_is_unknown(tmp_path: Path, columns: dict[str, Any]) -> None:
    path = tmp_path / "h.db"
    history = History.open(path)
    number = history.begin("/r", "d", "e.csv", "c", None, None, ACCOUNT, State.DELIVERED)
    write(path, number, **columns)
    run = history.run(number)
    assert run is not None and run.state is State.UNKNOWN
    history.close()


@pytest.mark.parametrize(
    "columns",
    [
        {"process": 10**18},
        {"process": -1},
        {"process": "me"},
        {"output": b"\xff\x00", "process": -1},
        {"output": "a\0b", "inode": 2**62, "process": 0},
        {"output": 12, "inode": "x"},
    ],
    ids=str,
)
def test_what_was_left_open_is_settled_whatever_is_stored(tmp_path: Path, columns: dict[str, Any]) -> None:
    path = tmp_path / "h.db"
    history = History.open(path)
    number = history.begin("/r", "d", "e.csv", "c", None, None, ACCOUNT, State.DELIVERING)
    history.close()
    write(path, number, **columns)
    again = History.open(path)
    run = again.run(number)
    assert run is not None and run.state is State.BROKEN_OFF
    again.close()


@pytest.mark.parametrize(
    "stored",
    [
        "",
        "7",
        "[]",
        b"\xff",
        json.dumps({**FINGERPRINT, "columns": [{}]}),
        json.dumps({**FINGERPRINT, "rows": -1}),
    ],
)
def test_a_fingerprint_that_is_none_is_left_out(tmp_path: Path, stored: Any) -> None:
    path = tmp_path / "h.db"
    history = History.open(path)
    for digest in ("a", "b"):
        history.begin("/r", "d", "e.csv", digest, None, None, ACCOUNT, State.DELIVERED, "e", FINGERPRINT)
    write(path, 2, fingerprint=stored)
    assert history.fingerprints("/r", "e") == [FINGERPRINT]
    history.close()


def test_counts_that_cannot_be_make_no_fingerprint() -> None:
    column = FINGERPRINT["columns"][0]
    assert is_fingerprint(FINGERPRINT)
    for wrong in ({"nulls": 4}, {"parts": {";": {"two": 1}}}, {"shortest": "x"}, {"values": [1]}):
        assert not is_fingerprint({**FINGERPRINT, "columns": [{**column, **wrong}]})


@given(JSON, st.sampled_from(sorted(ACCOUNT)))
def test_an_account_with_anything_in_it_is_of_the_shape_or_not(value: Any, key: str) -> None:
    from mangler.history.stored import DELIVERED

    account = object_of(json.dumps({**ACCOUNT, key: value}))
    assert has_shape(account, DELIVERED) in (True, False)


def test_names_that_are_not_utf_8_are_noted_and_found(tmp_path: Path) -> None:
    history = History.open(tmp_path / "h.db")
    output = tmp_path / "clean\udcff.csv"
    output.write_text("x")
    inode = output.stat().st_ino
    number = history.begin("/r", "d", "e\udcff.csv", "c", str(output), inode, ACCOUNT, State.DELIVERED)
    run = history.run(number)
    assert run is not None and run.output == str(output) and run.extract == "e\\xff.csv"
    assert history.what_is_at(output) == f"the output of run {number}"
    history.close()
