"""Columns made lines of by the compiled kernel, against Arrow's writer and what the bytes say."""

from __future__ import annotations

import numpy as np
import pyarrow as pa
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.kernels.arrays import layouts
from tests.kernels.compiled.twins import built, by_numpy, hostile

from mangler.formats.delimited.writer import count_rows
from mangler.kernels import compiled
from mangler.kernels.text.rendering import Layout, render

CELL = st.one_of(
    st.none(),
    st.text(st.sampled_from("ab \",;\n\r'é-"), max_size=5),
    st.sampled_from(["", "n/a", "x" * 15, "y" * 16 + ",", "z" * 31 + '"', '"' * 40]),
)
LAYOUTS = st.builds(
    Layout,
    delimiter=st.sampled_from([",", ";", "\t"]),
    quote=st.sampled_from(['"', "'"]),
    line_end=st.sampled_from(["\n", "\r\n"]),
    quote_all=st.booleans(),
    nulls=st.sampled_from(["", "n/a", "-"]),
)


@built
@settings(max_examples=600)
@given(
    st.integers(0, 20).flatmap(lambda n: st.lists(st.lists(CELL, min_size=n, max_size=n), min_size=1)),
    LAYOUTS,
)
def test_lines_are_those_of_arrow(table: list[list[str | None]], layout: Layout) -> None:
    """However the columns lie in memory: whole, as slices, with bytes under nulls."""
    count = len(table[0])
    with by_numpy():
        wanted = bytes(render([pa.array(cells, pa.string()) for cells in table], count, layout))
    for columns in zip(*map(layouts, table), strict=True):
        written = render(columns, count, layout)
        assert bytes(written) == wanted
        assert count_rows(written, columns, layout.quote, count) == count


@built
@settings(max_examples=600)
@given(hostile(b'"\n\r,a"'))
def test_lines_are_counted_outside_quotes(text: bytes) -> None:
    outside = b"".join(text.split(b'"')[::2])
    assert compiled.lines.count_lines(np.frombuffer(text, np.uint8), ord('"')) == outside.count(b"\n")


@built
def test_more_quotes_than_were_reckoned_with() -> None:
    """Room grows while lines are made: cells of quotes are twice as long."""
    cells = pa.array(['"' * 4000] * 200)
    written = bytes(render([cells, cells], 200, Layout()))
    assert written == (b'"' + b'"' * 8000 + b'","' + b'"' * 8000 + b'"\n') * 200
