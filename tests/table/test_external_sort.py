"""Rows sorted within a budget: in memory as long as no column is too large, else through files."""

from __future__ import annotations

from unittest.mock import patch

import numpy as np
import pyarrow as pa
import pytest

from mangler.kernels.keys.order import SortKey
from mangler.table import external_sort, memory_budget
from mangler.table.batch import Batch, NoOrigin
from mangler.table.external_sort import ExternalSort
from mangler.table.memory_budget import MemoryBudget

ROWS, EACH = 10_000, 500


@pytest.mark.parametrize(
    ("key", "largest", "uses_files"),
    [(0, 600_000, False), (1, 600_000, False), (0, 500_000, True), (1, 500_000, True)],
)
def test_each_column_may_have_as_many_bytes_as_one_holds(key: int, largest: int, uses_files: bool) -> None:
    """750 KB of rows, of which 590 KB are texts, where a column may have so many bytes."""
    numbers = np.random.default_rng(5).permutation(ROWS)
    texts = [f"{number:05}" + "x" * 50 for number in numbers]
    budget = MemoryBudget(6_000_000)
    with (
        patch.object(memory_budget, "LARGEST_IN_MEMORY", largest),
        patch.object(external_sort, "LARGEST_IN_MEMORY", largest),
    ):
        sorting = ExternalSort((key,), (SortKey(),), budget)
        for start in range(0, ROWS, EACH):
            part = slice(start, start + EACH)
            columns = (pa.array(numbers[part]), pa.array(texts[part]))
            sorting.add(Batch(columns, np.arange(start, start + EACH), NoOrigin()))
        out = list(sorting.sorted())
    assert bool(budget._files) == uses_files
    budget.close()
    assert [number for batch in out for number in batch.columns[0].to_pylist()] == list(range(ROWS))
    assert [text for batch in out for text in batch.columns[1].to_pylist()] == sorted(texts)
