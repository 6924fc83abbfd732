"""Rows that fold, in memory and dealt out to files: the same keys with the same counts, each in one portion."""

from __future__ import annotations

from collections import Counter

import numpy as np
import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mangler.kernels.by_group import chosen
from mangler.kernels.keys import keys_of
from mangler.kernels.text_view import TooLargeError
from mangler.steps import folding
from mangler.steps.folding import FoldingTables
from mangler.table.batch import Batch
from mangler.table.gathered import GatheredOrigin
from mangler.table.room import Room


def counted(batch: Batch) -> Batch:
    """A row a key, with the sum of the counts."""
    keys = keys_of(batch.columns[:1], len(batch))
    counts = np.bincount(keys.codes, np.asarray(batch.columns[1]), keys.count).astype(np.int64)
    return Batch(
        (chosen(batch.columns[0], keys.first), pa.array(counts)), batch.rows[keys.first], batch.origin
    )


def batch_of(keys: list[str]) -> Batch:
    columns = (pa.array(keys, pa.string()), pa.array(np.ones(len(keys), np.int64)))
    return Batch(columns, np.arange(len(keys)), GatheredOrigin("a.csv"))


@given(
    batches=st.lists(
        st.lists(st.sampled_from(["a", "b", "é", "", "x" * 70, "x" * 69 + "y"]), max_size=9), max_size=9
    ),
    budget=st.sampled_from([300, 2_000, 10**9]),
    chunk=st.sampled_from([1, 5, 1000]),
)
def test_every_key_comes_once(batches: list[list[str]], budget: int, chunk: int) -> None:
    room = Room(budget)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(folding, "CHUNK", chunk)
        tables = FoldingTables([counted, None], 1, room)
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
    room.close()


def test_many_keys_go_to_files_and_one_does_not() -> None:
    room = Room(3_000)
    many, one = FoldingTables([counted], 1, room), FoldingTables([counted], 1, room)
    for start in range(0, 600, 20):
        many.add([batch_of([str(key) for key in range(start, start + 20)])])
        one.add([batch_of(["a"] * 20)])
    assert many.is_dealt and not one.is_dealt
    assert sum(len(portion[0] or ()) for portion in many.released()) == 600
    assert many.origin.file == "a.csv"
    room.close()


def test_rows_of_one_key_that_do_not_fit_into_a_column(monkeypatch: pytest.MonkeyPatch) -> None:
    def overflow(*_: object) -> Batch:
        raise pa.ArrowInvalid("offset overflow while concatenating arrays")

    monkeypatch.setattr(folding, "emptied", overflow)
    tables = FoldingTables([None], 1, Room(10**6))
    tables.add([batch_of(["a"])])
    with pytest.raises(TooLargeError):
        list(tables.released())
