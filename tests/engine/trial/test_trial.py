from __future__ import annotations

from pathlib import Path

import pytest

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.trial import trial
from mangler.engine.trial.trial import Trial, attempt
from mangler.language.mistake import Refusal
from mangler.recipes.command_line_steps import read_steps, recipe_of


@pytest.fixture
def extract(tmp_path: Path) -> str:
    path = tmp_path / "a.csv"
    filler = "." * 300  # the first block has as much as is read to find out the delimiter
    studios = ["x"] * 499 + [" y "] + [f"z{n}" for n in range(500)]
    path.write_text("kiln;studio;notes\n" + "".join(f"007;{studio};{filler}\n" for studio in studios))
    return str(path)


def attempted(path: str, *steps: str, **options: object) -> Trial:
    return attempt(path, recipe_of(None), read_steps(steps), **options)  # type: ignore[arg-type]


def test_it_reads_on_until_something_changes(extract: str, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(trial, "SMALL_PARTITION", 100)
    tried = attempted(extract, "trim studio")
    assert 500 <= tried.rows_tried < 700 and tried.rows_in_extract is None
    assert [change.row for change in tried.steps[0].differences.cells.values()] == [500]
    tried = attempted(extract, "trim studio", "replace 'z499' with 'Z' in studio")
    assert tried.rows_tried == 1000 == tried.rows_in_extract
    monkeypatch.setattr(trial, "FURTHEST_ROW", 200)
    tried = attempted(extract, "trim studio")
    assert 200 <= tried.rows_tried < 500 and not tried.steps[0].differences.any
    assert tried.steps[0].tried.remarks == ["changed nothing: these cells have no such white space"]


@pytest.mark.parametrize("rows", [1, 499, 500, 501, 1000, 5000])
@pytest.mark.parametrize("size", [100, 1 << 17])
@pytest.mark.parametrize("whole", [False, True])
def test_as_many_rows_as_asked_for(
    extract: str, rows: int, size: int, whole: bool, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(trial, "SMALL_PARTITION", size)
    monkeypatch.setattr(trial, "PARTITION_SIZE", size)
    tried = attempted(extract, "trim studio", rows=rows, whole=whole)
    (step,) = tried.steps
    assert tried.rows_tried == min(rows, 1000) == step.tried.tally.rows_in
    assert step.tried.tally.counts["cells_changed"] == (rows >= 500) == len(step.differences.cells)
    if whole:
        assert step.whole is not None and tried.rows_in_extract == 1000
        assert (step.whole.tally.rows_in, step.whole.tally.counts["cells_changed"]) == (1000, 1)


def test_the_recipe_comes_first_and_steps_see_each_other(extract: str) -> None:
    recipe = LinkedRecipe.parse('mangler 1\nread delimiter ";"\nrename studio to place').parsed
    tried = attempt(extract, recipe, read_steps(["trim place", "recase place upper"]), rows=500)
    assert [len(step.differences.cells) for step in tried.steps] == [1, 2]
    assert tried.steps[0].before.names == ["kiln", "place", "notes"]


def test_carrying_steps_carry_on(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(trial, "PARTITION_SIZE", 64)
    path = tmp_path / "down.csv"
    path.write_text("a;b\n1;x\n" + "1;\n" * 200)
    tried = attempted(str(path), "fill b down", whole=True)
    assert tried.steps[0].whole is not None and tried.steps[0].whole.tally.counts["nulls_filled"] == 200


@pytest.mark.parametrize(
    ("steps", "message"),
    [
        (["trim studoi"], "Nearest: studio"),
        (["trimm studio"], "STEP, line 1, column 1"),
        (["trim *", "trim kiln lft"], "STEP 2, line 1, column 11"),
        (["  read nulls ''"], "read is not a step that could be tried"),
        (["test\n a\n becomes\n a"], "test is not a step"),
        ([""], "STEP holds no statement"),
        (["# trim *"], "STEP holds no statement"),
    ],
)
def test_mistakes_are_marked_in_the_step(extract: str, steps: list[str], message: str) -> None:
    with pytest.raises(Refusal, match=message):
        attempted(extract, *steps)


def test_rows_without_a_place_are_reported(tmp_path: Path) -> None:
    path = tmp_path / "a.csv"
    path.write_text("a;b\n1;2\n3\n 4;5\n")
    tried = attempted(str(path), "trim a")
    assert tried.rows_tried == 3 and [row.row for row in tried.unfit] == [2]
    assert tried.to_json()["steps"][0]["cells"] == [
        {"row": 3, "column": "a", "before": " 4", "after": "4", "times": 1}
    ]
