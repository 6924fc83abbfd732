from __future__ import annotations

import csv
import io

import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.kernels.arrays import CELLS, layouts
from tests.kernels.compiled.twins import by_numpy

from mangler.kernels.text import rendering
from mangler.kernels.text.rendering import Layout, quote_text, render
from mangler.kernels.text.text_view import TooLargeError

LAYOUTS = st.sampled_from(
    [
        Layout(),
        Layout(";"),
        Layout("\t", "'"),
        Layout("|", '"', "\r\n"),
        Layout("¦"),
        Layout(",", '"', "\n", True),
        Layout(",", '"', "\n", False, "NA"),
        Layout("\x1f"),
    ]
)


def spelled(cell: str | None, layout: Layout) -> str:
    return layout.nulls if cell is None else quote_text(cell, layout)


@given(st.lists(st.tuples(CELLS, CELLS, CELLS), max_size=20), LAYOUTS)
def test_lines_are_those_of_a_writer_of_one_cell_after_the_other(
    rows: list[tuple[str | None, ...]], layout: Layout
) -> None:
    expected = "".join(
        layout.delimiter.join(spelled(c, layout) for c in row) + layout.line_end for row in rows
    )
    columns = [[row[i] for row in rows] for i in range(3)]
    for made in zip(*map(layouts, columns), strict=True):
        assert bytes(render(made, len(rows), layout)).decode() == expected


@given(st.lists(st.text(st.sampled_from('a,"\n\r;é ')), max_size=10))
def test_the_standard_reader_reads_the_cells_back(cells: list[str]) -> None:
    lines = bytes(render([pa.array(cells, pa.string())] * 2, len(cells), Layout())).decode()
    assert list(csv.reader(io.StringIO(lines, newline=""))) == [[cell, cell] for cell in cells]


@pytest.mark.parametrize(
    ("cell", "expected"),
    [
        ("plain", "plain"),
        ("", '""'),
        ("a;b", '"a;b"'),
        ('5" pipe', '"5"" pipe"'),
        ("a\rb", '"a\rb"'),
        (" x ", " x "),
    ],
)
def test_only_cells_that_need_quotes_get_them(cell: str, expected: str) -> None:
    assert bytes(render([pa.array([cell])], 1, Layout(";"))).decode() == expected + "\n"
    assert quote_text(cell, Layout(";")) == expected


def test_a_text_that_is_the_word_for_null_is_quoted() -> None:
    column = pa.array(["NA", None, "na", ""])
    assert bytes(render([column], 4, Layout(nulls="NA"))) == b'"NA"\nNA\nna\n""\n'


def test_null_and_empty_stay_different_in_one_column() -> None:
    assert bytes(render([pa.array([None, "", "x"])], 3, Layout())) == b'\n""\nx\n'


def test_no_rows_and_no_columns() -> None:
    assert bytes(render([pa.array([], pa.string())], 0, Layout())) == b""
    assert bytes(render([], 2, Layout())) == b"\n\n"


@given(st.lists(CELLS, min_size=1, max_size=4), LAYOUTS)
def test_a_row_too_large_for_the_writer_is_written_alike(cells: list[str | None], layout: Layout) -> None:
    columns = [pa.array([cell], pa.string()) for cell in cells]
    expected = bytes(render(columns, 1, layout))
    with pytest.MonkeyPatch.context() as patch, by_numpy():
        patch.setattr(rendering, "LARGEST_COLUMN", 0)
        assert bytes(render(columns, 1, layout)) == expected
        with pytest.raises(TooLargeError):
            render([pa.array(["x", "y"])], 2, layout)
