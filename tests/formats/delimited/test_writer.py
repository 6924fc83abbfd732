from __future__ import annotations

import numpy as np
import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mangler.formats.delimited import writer
from mangler.formats.delimited.dialect import Dialect
from mangler.table.batch import Batch, NoOrigin
from mangler.table.settings import WriteSettings

PLAIN = Dialect(";", '"', "\n", byte_order_mark=False)


def test_many_rows_are_written_in_halves_and_come_out_the_same(monkeypatch: pytest.MonkeyPatch) -> None:
    cells = [f"{n};" if n % 3 else None for n in range(101)]
    columns = (pa.array(cells), pa.array(range(101)))
    batch = Batch(columns, np.arange(1, 102), NoOrigin())
    lines = writer.line_writer(["a", "b"], WriteSettings(), PLAIN)
    whole = lines.lines(batch)
    monkeypatch.setattr(writer, "LARGEST_AT_ONCE", 64)
    assert bytes(lines.lines(batch).content) == bytes(whole.content)
    assert bytes(whole.content).count(b"\n") == 101 == whole.rows


CELLS = st.none() | st.text('a";\n\r', max_size=4)


@given(st.lists(st.tuples(CELLS, CELLS), max_size=12), st.sampled_from(["utf-8", "utf-16"]))
def test_the_rows_in_the_bytes_are_counted(rows: list[tuple[str | None, str | None]], codec: str) -> None:
    columns = tuple(pa.array([row[place] for row in rows], pa.string()) for place in (0, 1))
    batch = Batch(columns, np.arange(len(rows)), NoOrigin())
    lines = writer.line_writer(["a", "b"], WriteSettings(encoding=codec), PLAIN).lines(batch)
    assert lines.rows == len(rows)


def test_bytes_that_lack_a_row_are_counted_as_they_are() -> None:
    cells = [pa.array(["a\nb", 'c"'], pa.string())]
    rows = b'1;"a\nb"\n2;"c"""\n'
    assert [writer.count_rows(rows, cells, '"', expected) for expected in (0, 1, 2)] == [2, 2, 2]
    assert writer.count_rows(b'1;"a\nb"\n', cells, '"', 2) == 1
    assert writer.count_rows(rows, [], '"', 2) == 2 and writer.count_rows(b"", [], '"', 1) == 0
    assert writer.count_rows(b"\n\n", [pa.array([None, None], pa.string())], '"', 2) == 2
