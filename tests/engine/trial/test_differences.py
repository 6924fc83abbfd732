"""What is shown of steps that make and take away rows and columns; such verbs can be written without the engine."""

from __future__ import annotations

from typing import Any

import numpy as np
import pyarrow as pa

from mangler.engine.trial.differences import Differences
from mangler.table.batch import Batch, NoOrigin
from mangler.table.schema import Schema


def batch(rows: list[int], *columns: Any) -> Batch:
    arrays = [c if isinstance(c, pa.Array) else pa.array(c, pa.string()) for c in columns]
    return Batch(tuple(arrays), np.array(rows, np.int64), NoOrigin())


def differ(before: Batch, after: Batch, old: str, new: str, named: tuple[str, ...] = ()) -> Differences:
    found = Differences()
    found.note(before, after, (Schema.of_text(old.split()), Schema.of_text(new.split())), named)
    return found


def test_equal_changes_are_counted_together() -> None:
    found = differ(batch([1, 2, 3], ["x ", "x ", None]), batch([1, 2, 3], ["x", "x", ""]), "a", "a")
    assert [(c.row, c.before, c.after, c.times) for c in found.cells.values()] == [
        (1, "x ", "x", 2),
        (3, None, "", 1),
    ]
    assert found.rows_touched == 3


def test_nothing_changed() -> None:
    found = differ(batch([1, 2], ["x", None]), batch([1, 2], ["x", None]), "a", "a")
    assert not found.any and not found.cells


def test_a_column_under_another_name_is_renamed() -> None:
    array = pa.array(["x"])
    found = differ(batch([1], array, ["y"]), batch([1], array, ["y"]), "a b", "c b")
    assert found.renamed == (("a", "c"),) and not found.come and not found.gone


def test_order_alone() -> None:
    found = differ(batch([1], ["x"], ["y"]), batch([1], ["y"], ["x"]), "a b", "b a")
    assert found.order == ("b", "a") and not found.cells


def test_new_columns_are_shown_with_what_they_came_of() -> None:
    before = batch([1, 2], ["Tove Aslan", "Pim"], ["007", "012"])
    after = batch([1, 2], ["Tove", "Pim"], ["Aslan", None], ["007", "012"])
    found = differ(before, after, "potter kiln", "first last kiln", ("potter", "first", "last"))
    assert found.come == ("first", "last") and found.gone == ("potter",)
    assert found.rows[0].before == {"potter": "Tove Aslan"}
    assert found.rows[0].after == {"first": "Tove", "last": "Aslan"}


def test_a_new_column_of_no_other_makes_no_new_rows() -> None:
    found = differ(batch([1, 2], ["x", "y"]), batch([1, 2], ["x", "y"], ["a", "b"]), "p", "p q", ("q",))
    assert [(row.kind, row.before, row.after) for row in found.rows] == [
        ("changed", {}, {"q": "a"}),
        ("changed", {}, {"q": "b"}),
    ]


def test_rows_out_of_one_and_rows_that_go() -> None:
    before = batch([1, 2, 3], ["a,b", "c", "d"])
    after = batch([1, 1, 2], ["a", "b", "c"])
    found = differ(before, after, "p", "p")
    assert [(r.row, r.kind, r.before.get("p"), r.after.get("p")) for r in found.rows] == [
        (1, "changed", "a,b", "a"),
        (1, "new", None, "b"),
        (3, "removed", "d", None),
    ]
    assert found.rows_touched == 3
