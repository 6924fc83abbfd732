from __future__ import annotations

import os
from pathlib import Path

import numpy as np
import pyarrow as pa
import pytest

from mangler.language.mistake import ExitCode, Refusal
from mangler.table import external_reorder as in_order
from mangler.table.batch import Batch
from mangler.table.memory_budget import MemoryBudget, SpoolFile
from mangler.table.packing import MixedOrigin
from mangler.table.partitioned_rows import PartitionedRows
from mangler.table.spillable_rows import SpillableRows


def batch(*cells: str | None) -> Batch:
    return Batch((pa.array(cells, pa.string()),), np.arange(1, len(cells) + 1), MixedOrigin("a.csv"))


def cells_of(batches: object) -> list[str | None]:
    return [cell for one in batches for cell in one.columns[0].to_pylist()]  # type: ignore[attr-defined]


@pytest.mark.parametrize("total", [1, 300, 10**6])
def test_rows_come_back_in_their_order_wherever_they_are_kept(total: int) -> None:
    budget = MemoryBudget(total)
    rows = SpillableRows(budget)
    for n in range(40):
        rows.add(batch(f"{n}", None, "x" * n))
        rows.add(batch())
    wanted = [cell for n in range(40) for cell in (f"{n}", None, "x" * n)]
    assert cells_of(rows) == cells_of(rows) == wanted and rows.rows == 120
    # Batches from the last to the first; within a batch rows stay in order.
    batches = [one.columns[0].to_pylist() for one in rows]
    assert [one.columns[0].to_pylist() for one in rows.backwards()] == batches[::-1]
    assert [cell for cells in batches for cell in cells] == wanted
    assert cells_of(rows.consume()) == wanted
    assert rows.origin.file == "a.csv"
    budget.close()


@pytest.mark.parametrize("hold", [None, 0, 60, 10**6])
def test_dealt_rows_keep_their_order(hold: int | None) -> None:
    budget = MemoryBudget(1)
    partitioned = PartitionedRows(budget, 4, hold)
    for cells, numbers in (("abcde", [2, 0, 2, 0, 2]), ("", []), ("fgh", [3, 3, 0])):
        partitioned.add(batch(*cells), np.array(numbers, np.uint64))
    parts = [partitioned.part(number) for number in range(4)]
    assert [cells_of(part) for part in parts] == [["b", "d", "h"], [], ["a", "c", "e"], ["f", "g"]]
    assert np.concatenate([one.rows for one in parts[2]]).tolist() == [1, 3, 5]
    assert [bool(part.size) for part in parts] == [True, False, True, True]
    assert cells_of(parts[3]) == ["f", "g"] and parts[0].origin.file == "a.csv"
    partitioned.close()
    budget.close()


@pytest.mark.parametrize("total", [300, 10**9])
def test_rows_in_another_order(total: int, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(in_order, "BLOCK", 1)  # blocks of as few rows as there can be
    count = 5_000
    budget = MemoryBudget(total)
    rows = SpillableRows(budget)
    for start in range(0, count, 700):
        rows.add(batch(*map(str, range(start, min(start + 700, count)))))
    order = np.random.default_rng(7).permutation(count)
    out = list(in_order.external_reorder(rows, order, budget))
    assert cells_of(out) == [str(n) for n in order.tolist()] and len(out) > 2
    budget.close()


def test_files_have_no_names(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("tempfile.tempdir", str(tmp_path))
    spool = SpoolFile()
    places = [spool.write(pa.RecordBatch.from_pydict({"a": [cell]})) for cell in ("x", "y")]
    assert [spool.read(span).to_pydict() for span in reversed(places)] == [{"a": ["y"]}, {"a": ["x"]}]
    assert list(tmp_path.iterdir()) == []
    spool.close()


def test_a_folder_that_is_not_there(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("tempfile.tempdir", "/no/such/folder")
    with pytest.raises(Refusal, match="temporary file") as refused:
        MemoryBudget(1).file()
    assert refused.value.code is ExitCode.FILE_TROUBLE and "TMPDIR" in str(refused.value)


@pytest.mark.skipif(not os.path.exists("/dev/full"), reason="this system has no device that is always full")  # noqa: PTH110
def test_a_full_disk() -> None:
    spool = SpoolFile.__new__(SpoolFile)
    spool._out, spool._in = pa.OSFile("/dev/full", "wb"), pa.OSFile("/dev/full")
    with pytest.raises(Refusal, match="trouble: no space left on device\n"):
        spool.write(pa.RecordBatch.from_pydict({"a": ["x" * 100_000]}))
    spool.close()
