"""The verbs that choose columns, and what is not there."""

from __future__ import annotations

from typing import Any

import pytest
from tests.conftest import Run

from mangler.language.mistake import ExitCode, Refusal

EXTRACT = "kiln,cone,fired_at,result\n007,06,today,good\n"


def names(run: Run, steps: str) -> list[str]:
    return list(run(steps, EXTRACT).table.column_names)


@pytest.mark.parametrize(
    ("steps", "expected"),
    [
        ("keep columns result, kiln", ["kiln", "result"]),
        ("keep columns * except /_at$/, gone?", ["kiln", "cone", "result"]),
        ("drop columns cone, gone?", ["kiln", "fired_at", "result"]),
        ("drop columns text columns", []),
        ("keep columns numeric columns", []),
        ("reorder columns result, *, kiln", ["result", "cone", "fired_at", "kiln"]),
        ("reorder columns /^[cr]/, *", ["cone", "result", "kiln", "fired_at"]),
        ("reorder columns kiln, cone, fired_at, result", ["kiln", "cone", "fired_at", "result"]),
    ],
)
def test_choosing_columns(run: Run, steps: str, expected: list[str]) -> None:
    assert names(run, steps) == expected


def test_reordering_loses_no_column(run: Run) -> None:
    with pytest.raises(Refusal, match="cone, fired_at, result: not named") as refused:
        run("reorder columns kiln", EXTRACT)
    assert "*" in refused.value.mistakes[0].advice


def test_a_column_that_is_not_there_names_the_nearest(run: Run) -> None:
    with pytest.raises(Refusal, match='no column "klin"') as refused:
        run("trim klin", EXTRACT)
    assert refused.value.code is ExitCode.ANSWER_IS_NO
    assert refused.value.mistakes[0].advice.startswith("Nearest: kiln. Columns: kiln, cone")


def test_every_missing_column_is_reported_once(run: Run) -> None:
    with pytest.raises(Refusal) as refused:
        run("trim one, two\nfill one with 'x'\ndrop columns three", EXTRACT)
    assert [m.missing for m in refused.value.mistakes] == [("one",), ("two",), ("three",)]


def test_a_clause_word_after_a_comma_is_explained(run: Run) -> None:
    with pytest.raises(Refusal, match="take the comma out"):
        run("trim kiln, squeeze", EXTRACT)


def test_a_column_that_an_earlier_step_took_is_the_recipes_mistake(run: Run) -> None:
    with pytest.raises(Refusal, match="gone since line 2") as refused:
        run("drop columns cone\ntrim cone", EXTRACT)
    assert refused.value.code is ExitCode.WRONG_FOR_ANY_EXTRACT


def test_require_columns(run: Run) -> None:
    assert names(run, "require columns kiln, cone") == ["kiln", "cone", "fired_at", "result"]
    run("require columns exactly result, kiln, cone, fired_at", EXTRACT)
    with pytest.raises(Refusal, match="2 more columns than required: fired_at, result"):
        run("require columns exactly kiln, cone", EXTRACT)
    with pytest.raises(Refusal, match="lacks 2 required columns: potter, glazes") as refused:
        run("require columns kiln, potter, glazes\ntrim potter", EXTRACT)
    assert len(refused.value.mistakes) == 1
    with pytest.raises(Refusal, match='no column "potter"'):
        run("require columns potter", EXTRACT)
    with pytest.raises(Refusal, match='no column "potter": the letters go out to them'):
        run('require columns potter because "the letters go out to them"', EXTRACT)


@pytest.mark.parametrize(
    ("columns", "said"),
    [
        ("kiln, cone", None),
        ("kiln, potter", 'the extract has no column "potter": as agreed'),
        ("potter, glazes", "the extract lacks 2 required columns: potter, glazes: as agreed"),
        ("exactly kiln, cone, result", "the extract has 1 more column than required: fired_at: as agreed"),
    ],
)
def test_require_columns_may_only_warn(run: Run, columns: str, said: str | None) -> None:
    summary = run(f'require columns {columns} failures warn because "as agreed"', EXTRACT).summary
    assert summary.warnings == ([f"line 2: {said}"] if said else [])
    assert summary.balance.delivered == summary.balance.read > 0


def test_a_selector_that_means_no_column_says_so(run: Run) -> None:
    result = run("trim numeric columns\ntrim * except *\ntrim gone?", EXTRACT)
    assert all(step.remarks == ["no column is meant: nothing was done"] for step in result.summary.steps[1:])


def test_names_in_brackets(clean: Any) -> None:
    assert clean("trim [Fired at?], [a]]b]", "Fired at?,a]b\n x , y \n") == [["x", "y"]]
