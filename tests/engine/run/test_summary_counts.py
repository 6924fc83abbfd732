"""What a summary counts besides its steps: nulls by column, and rows set aside by reason."""

from __future__ import annotations

import pickle
from collections.abc import Callable, Iterable, Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from tests.conftest import Run

from mangler.engine.run import summary as summary_module
from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.run.options import RunOptions
from mangler.engine.run.summary import AsideReasons
from mangler.formats.aside import AsideRows
from mangler.table.row_notes import RowNotes


class Sent:
    """A workforce that works here, on what would be sent to others, and gives back what they would send."""

    threads, memory = 2, None

    def map_ordered(self, function: Callable[[Any], Any], items: Iterable[Any], /) -> Iterator[Any]:
        sent = pickle.loads(pickle.dumps(function))
        for item in items:
            yield pickle.loads(pickle.dumps(sent(pickle.loads(pickle.dumps(item)))))


STEPS = 'read nulls "-"\nfill b with "x" where a = "1"\nsplit c at ";" into rows\ndrop columns a'
EXTRACT = "a,b,c\n1,-,p;q\n2,,-\n3,y,r\n-,-,s\n"


def test_nulls_by_column_as_read_and_as_delivered(run: Run) -> None:
    """Null words are nulls; a column that a step drops is counted as read only, rows that it makes as they come out."""
    found = run(STEPS, EXTRACT).summary
    assert found.nulls_read == {"a": 1, "b": 3, "c": 1}
    assert found.nulls_delivered == {"b": 2, "c": 1}
    assert found.to_json()["nulls"] == {"read": found.nulls_read, "delivered": found.nulls_delivered}


def test_nulls_of_a_table_without_rows_are_none(run: Run) -> None:
    found = run("trim *", "a,b\n").summary
    assert found.nulls_read == {"a": 0, "b": 0} == found.nulls_delivered


@pytest.mark.parametrize("steps", [STEPS, STEPS + "\nsort by c", STEPS + "\nkeep first 3 rows"])
def test_nulls_are_the_same_where_others_do_the_work(tmp_path: Path, steps: str) -> None:
    """Rows that are encoded elsewhere, gathered elsewhere, or handed on."""
    (tmp_path / "a.csv").write_text("a,b,c\n" + EXTRACT.split("\n", 1)[1] * 50)
    recipe = LinkedRecipe.parse(f"mangler 1\n{steps}")
    accounts = []
    for options in (RunOptions(), RunOptions(workforce=Sent(), divides_small=True)):
        found = recipe.run(tmp_path / "a.csv", tmp_path / "o.csv", options=options).summary.to_json()
        accounts.append((found["nulls"], found["balance"], found["set_aside_reasons"]))
    assert accounts[0] == accounts[1]


def test_rows_set_aside_by_reason_those_of_most_rows_first(run: Run) -> None:
    steps = 'set aside rows where a = "1" because "one"\nset aside rows where a != "2" because "others"'
    found = run(steps, "a,b\n1,\n3,\n1,\n2,\n1,x,y\n4,\n1,\n").summary.to_json()
    told = [(one["step"], one["reason"], one["rows"]) for one in found["set_aside_reasons"]]
    assert told == [
        ("2", "one", 3),
        ("3", "others", 2),
        ("0", "3 fields where the header has 2", 1),
    ]
    assert sum(rows for _, _, rows in told) == found["balance"]["set_aside"]


def test_of_many_different_reasons_some_are_told_and_all_rows_are_counted(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setattr(summary_module, "MOST_DIFFERENT", 6)
    monkeypatch.setattr(summary_module, "MOST_TOLD", 2)
    reasons = AsideReasons()
    for start in (0, 5):
        names = tuple(f"reason {number}" for number in range(start, start + 5))
        rows = np.arange(start, start + 6)
        notes = RowNotes(rows, np.array([0, 1, 1, 2, 3, 4]), names)
        reasons.add(AsideRows(None, notes, ("7",) * 5))  # type: ignore[arg-type]
    told = [(one["reason"], one["rows"]) for one in reasons.to_json()]
    assert told == [("reason 1", 2), ("reason 0", 1), (None, 9)]
