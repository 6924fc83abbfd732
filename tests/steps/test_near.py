"""`map … near` and `lookup … near`."""

from __future__ import annotations

from pathlib import Path

import pytest
from tests.conftest import Refused, Run

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.run.options import RunOptions
from mangler.language.mistake import Refusal

STUDIOS = "s\nClay Works\nclay wrks\nClay Wrks\nQuayside\nHill\n"
STEP = 'map s "Clay Works" to "CW", "Quayside" to "QS", "Hall" to "HA", "Hull" to "HU" near 2'


def test_a_value_takes_the_nearest_key(run: Run) -> None:
    done = run(STEP, STUDIOS)
    assert done.table["s"].to_pylist() == ["CW", "CW", "CW", "QS", "Hill"]  # Hall and Hull are equally near
    (warning,) = done.summary.warnings
    assert (
        '2 cells took the nearest key: "Clay Wrks" to "Clay Works" (1), "clay wrks" to "Clay Works" (1)'
        in warning
    )


def test_pairs_do_not_depend_on_partitions(run: Run) -> None:
    table = "s\n" + "Clay Wrks\nQuaysde\n" * 40
    whole = run(STEP, table)
    assert run(STEP, table, partition_size=30, workers=3).summary.warnings == whole.summary.warnings
    assert '"Clay Wrks" to "Clay Works" (40)' in str(whole.summary.warnings)


def test_strict_refuses_them(tmp_path: Path) -> None:
    (tmp_path / "e.csv").write_text(STUDIOS)
    recipe = LinkedRecipe.parse(f"mangler 1\n{STEP}")
    with pytest.raises(Refusal, match="took the nearest key"):
        recipe.run(tmp_path / "e.csv", options=RunOptions(strict=True))


def test_only_rows_that_are_meant(run: Run) -> None:
    done = run(f"{STEP} where k = '1'", "k,s\n1,Clay Wrks\n2,Clay Wrks\n")
    assert done.table["s"].to_pylist() == ["CW", "Clay Wrks"] and "(1)" in str(done.summary.warnings)


def test_the_last_column_of_a_key_may_be_near(tmp_path: Path) -> None:
    (tmp_path / "k.csv").write_text("week,studio,v\n18,Clay Works,1\n19,Clay Works,2\n19,Quayside,3\n")
    (tmp_path / "e.csv").write_text(
        "week,studio\n18,Clay Wrks\n19,CLAY WORK\n17,Clay Works\n19,\n18,Quayside\n"
    )
    recipe = LinkedRecipe.parse(
        'mangler 1\nlookup "k.csv" on week, studio near 2 bring v', name=str(tmp_path / "r.mangler")
    )
    done = recipe.run(tmp_path / "e.csv")
    assert done.table["v"].to_pylist() == ["1", "2", None, None, None]
    assert '"CLAY WORK" to "Clay Works" (1)' in str(done.summary.warnings)


def test_a_key_of_several_rows_is_one_key(tmp_path: Path) -> None:
    (tmp_path / "k.csv").write_text("s,v\nClay Works,1\nClay Works,2\n")
    (tmp_path / "e.csv").write_text("s\nClay Wrks\n")
    recipe = LinkedRecipe.parse(
        'mangler 1\nlookup "k.csv" on s near 1 bring v several all', name=str(tmp_path / "r")
    )
    assert recipe.run(tmp_path / "e.csv").table["v"].to_pylist() == ["1", "2"]


@pytest.mark.parametrize(
    ("step", "says"),
    [
        ('map s "a" to "b" near 50', "Write near 1, 2 or 3"),
        ('map s "a" to "b" near 0', "is the value itself"),
        ('map s "a" to "b" near far', "a number is expected"),
    ],
)
def test_wrong_use(refused: Refused, step: str, says: str) -> None:
    refused(step, STUDIOS, says)


def test_only_texts_are_near(tmp_path: Path) -> None:
    (tmp_path / "k.csv").write_text("n,v\n1,1\n")
    (tmp_path / "e.csv").write_text("n\n1\n")
    recipe = LinkedRecipe.parse(
        'mangler 1\nconvert n to integer\nlookup "k.csv" on n near 1 bring v', name=str(tmp_path / "r")
    )
    with pytest.raises(Refusal, match="near compares texts"):
        recipe.run(tmp_path / "e.csv")
