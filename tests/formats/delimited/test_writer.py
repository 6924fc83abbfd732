from __future__ import annotations

import numpy as np
import pyarrow as pa
import pytest

from mangler.engine.small_run import NoFile
from mangler.formats.delimited import writer
from mangler.formats.delimited.dialect import Dialect
from mangler.table.batch import Batch
from mangler.table.settings import WriteSettings


def test_many_rows_are_written_in_halves_and_come_out_the_same(monkeypatch: pytest.MonkeyPatch) -> None:
    cells = [f"{n};" if n % 3 else None for n in range(101)]
    columns = (pa.array(cells), pa.array(range(101)))
    batch = Batch(columns, np.arange(1, 102), NoFile())
    lines = writer.line_writer(
        ["a", "b"], WriteSettings(), Dialect(";", '"', "\n", byte_order_mark=False), None
    )
    whole = bytes(lines.lines(batch))
    monkeypatch.setattr(writer, "LARGEST_AT_ONCE", 64)
    assert bytes(lines.lines(batch)) == whole
    assert whole.count(b"\n") == 101
