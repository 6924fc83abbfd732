"""Rows that fold, in memory and dealt out to files: the same keys with the same counts, each in one portion."""

from __future__ import annotations

from collections import Counter

import numpy as np
import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mangler.kernels.keys.group_order import chosen
from mangler.kernels.keys.keys import keys_of
from mangler.kernels.text.text_view import TooLargeError
from mangler.table import partitioned_fold as folding
from mangler.table.batch import Batch
from mangler.table.memory_budget import MemoryBudget
from mangler.table.packing import MixedOrigin
from mangler.table.partitioned_fold import PartitionedFold


def counted(batch: Batch) -> Batch:
    """One row per key, with the sum of the counts."""
    keys = keys_of(batch.columns[:1], len(batch))
    counts = np.bincount(keys.codes, np.asarray(batch.columns[1]), keys.count).astype(np.int64)
    return Batch(
        (chosen(batch.columns[0], keys.first), pa.array(counts)), batch.rows[keys.first], batch.origin
    )


def batch_of(keys: list[str]) -> Batch:
    columns = (pa.array(keys, pa.string()), pa.array(np.ones(len(keys), np.int64)))
    return Batch(columns, np.arange(len(keys)), MixedOrigin("a.csv"))


@given(
    batches=st.lists(
        st.lists(st.sampled_from(["a", "b", "é", "", "x" * 70, "x" * 69 + "y"]), max_size=9), max_size=9
    ),
    total=st.sampled_from([300, 2_000, 10**9]),
    chunk=st.sampled_from([1, 5, 1000]),
)
def test_every_key_comes_once(batches: list[list[str]], total: int, chunk: int) -> None:
    budget = MemoryBudget(total)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(folding, "CHUNK", chunk)
        tables = PartitionedFold([counted, None], 1, budget)
        for keys in batches:
            tables.add([batch_of(keys), batch_of(keys)])
        found: Counter[str] = Counter()
        for folded, rows in tables.released():
            if folded is None:
                continue
            own = dict(zip(*(column.to_pylist() for column in folded.columns), strict=True))
            assert not set(own) & set(found)
            found.update(own)
            assert rows is not None and Counter(rows.columns[0].to_pylist()) == Counter(own)
    assert found == Counter(key for keys in batches for key in keys)
    budget.close()


def test_many_keys_go_to_files_and_one_does_not() -> None:
    budget = MemoryBudget(3_000)
    many, one = PartitionedFold([counted], 1, budget), PartitionedFold([counted], 1, budget)
    for start in range(0, 600, 20):
        many.add([batch_of([str(key) for key in range(start, start + 20)])])
        one.add([batch_of(["a"] * 20)])
    assert many.is_partitioned and not one.is_partitioned
    assert sum(len(portion[0] or ()) for portion in many.released()) == 600
    assert many.origin.file == "a.csv"
    budget.close()


def test_rows_of_one_key_that_do_not_fit_into_a_column(monkeypatch: pytest.MonkeyPatch) -> None:
    def overflow(*_: object) -> Batch:
        raise pa.ArrowInvalid("offset overflow while concatenating arrays")

    monkeypatch.setattr(folding, "concat_and_clear", overflow)
    tables = PartitionedFold([None], 1, MemoryBudget(10**6))
    tables.add([batch_of(["a"])])
    with pytest.raises(TooLargeError):
        list(tables.released())
