"""Cutting cells: against plain Python on random text, and the cases that were thought of one by one."""

from __future__ import annotations

import numpy as np
import pyarrow as pa
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.kernels.arrays import layouts
from tests.kernels.cutting import parts_of

from mangler.kernels.text.delimiters import Delimiters
from mangler.kernels.text.parts import cut

CELLS = st.lists(
    st.none()
    | st.text(
        st.sampled_from([*'ab;,=- \t\n"Kk', "\u00a0", "\u2003", "\u200b", "é", "ſ", "\u212a", "😀"]),
        max_size=12,
    ),
    max_size=8,
)
DELIMITERS = {
    "one": Delimiters((";",)),
    "several": Delimiters((";", ",", " ")),
    "long": Delimiters(("; ",)),
    "longest wins": Delimiters((";", ";;", ";,;")),
    "overlapping": Delimiters(("aa", "aba")),
    "wide": Delimiters(("é", "\u00a0")),
    "anycase": Delimiters(("kA", "b"), anycase=True),
    "anycase ascii": Delimiters(("aB",), anycase=True),
    "pattern": Delimiters((), (r"[;,]+",)),
    "text and pattern": Delimiters((";,", "-"), (r"a+", r"[ \t]")),
    "anchored": Delimiters((), (r"^a",)),
    "positions": Delimiters(positions=(2, 5, 2)),
    "first": Delimiters((";", "a"), which="first"),
    "last": Delimiters((";", "a"), which="last"),
    "inner first": Delimiters((" ", "\n"), which="first", inner=True),
    "inner last": Delimiters((" ", "; "), which="last", inner=True),
    "quoted": Delimiters((";", " "), quoted=True),
    "quoted last": Delimiters((), (r"[;a]",), which="last", quoted=True),
}


def cut_up(cells: list[str | None], delimiters: Delimiters, trim: bool, drop: bool) -> list[list[str]]:
    outcomes = []
    for array in layouts(cells):
        parts = cut(array, delimiters, trim, drop)
        texts = parts.all_texts().to_pylist()
        assert parts.first[0] == 0
        assert parts.first[-1] == len(texts)
        bounds = zip(parts.first[:-1], parts.first[1:], strict=True)
        outcomes.append([texts[start:end] for start, end in bounds])
    assert outcomes[0] == outcomes[1] == outcomes[2]
    return outcomes[0]


@pytest.mark.parametrize("delimiters", DELIMITERS.values(), ids=DELIMITERS)
@settings(max_examples=150)
@given(cells=CELLS, trim=st.booleans(), drop=st.booleans())
def test_parts_are_those_of_plain_python(
    delimiters: Delimiters, cells: list[str | None], trim: bool, drop: bool
) -> None:
    expected = [parts_of(cell, delimiters, trim, drop) for cell in cells]
    assert cut_up(cells, delimiters, trim, drop) == expected


def test_bytes_under_nulls_are_no_parts() -> None:
    array = pa.Array.from_buffers(
        pa.string(),
        2,
        [pa.py_buffer(b"\x02"), pa.py_buffer(np.array([0, 3, 6], np.int32)), pa.py_buffer(b"a;bc;d")],
    )
    parts = cut(array, Delimiters((";",)))
    assert parts.counts.tolist() == [0, 2]
    assert parts.all_texts().to_pylist() == ["c", "d"]


def test_long_runs_of_blanks_and_of_delimiters() -> None:
    cell = " " * 5000 + "a" + "\u2003 " * 3000 + ";" + "\n" * 4000 + ";" * 3000
    assert cut_up([cell], Delimiters((";",)), True, True) == [["a"]]
    assert [len(parts) for parts in cut_up([cell], Delimiters((";",)), True, False)] == [3002]


def test_a_delimiter_that_overlaps_itself_is_taken_from_the_left() -> None:
    cells: list[str | None] = ["a" * 7, "ba" + "a" * 4, "aabaab"]
    assert cut_up(cells, Delimiters(("aaa",)), False, False) == [["", "", "a"], ["b", "aa"], ["aabaab"]]


def test_no_rows_and_no_text() -> None:
    assert cut_up([], Delimiters((";",)), True, False) == []
    assert cut_up([None, "", " "], Delimiters((" ",)), True, False) == [[], [], []]
