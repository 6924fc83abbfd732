"""`all of (…)` and `any of (…)` in conditions."""

from __future__ import annotations

import pytest
from tests.conftest import Refused, Run

from mangler.language.items import Step
from mangler.language.layout import format_recipe
from mangler.language.recipe import parse_recipe
from mangler.language.source import Source
from mangler.steps import VERBS

TABLE = "a,b,n\n,,\nx,,1\nx,y,2\n,x,3\n"


@pytest.mark.parametrize(
    ("condition", "rows"),
    [
        ("all of (*) is null", [1]),
        ("any of (a, b) is null", [1, 2, 4]),
        ("all of (a, b) is not null", [3]),
        ('any of (a, b) = "y"', [3]),
        ('all of (a, b) in ("x", "y")', [3]),
        ('any of (* except n) contains "x" and n != "3"', [2, 3]),
        ("not any of (a, b) is null", [3]),
        ("all of (/^[ab]$/) matches /x|y/ or n = '1'", [2, 3]),
        ('any of (a) = "x"', [2, 3]),
        ("any of (a, b, nosuch?) is null", [1, 2, 4]),
    ],
)
def test_each_column_is_tested(run: Run, condition: str, rows: list[int]) -> None:
    done = run(f"keep rows where {condition}\nmake at = extract_row()", TABLE)
    assert done.table.column("at").to_pylist() == rows


@pytest.mark.parametrize(
    ("condition", "says"),
    [
        ("all of () is null", "no column is between these brackets"),
        ("all of (a, b) + 1", "+ makes a value"),
        ("all of (a, b)", "a test of each column is expected"),
        ("any of (a, z) is null", '"z"'),
        ("any of (nosuch?) is null", "no column is meant"),
        ("any of (a, b is null", ") is expected"),
        ("any of (*) + 1 > 2", "+ makes a value"),
        ("any of (*) > 2", "a is text"),
    ],
)
def test_wrong_use(refused: Refused, condition: str, says: str) -> None:
    refused(f"keep rows where {condition}", TABLE, says)


def test_a_definition_names_no_columns(refused: Refused) -> None:
    refused(
        "define bad(x) = any of (a) is null\nkeep rows where bad(b)",
        TABLE,
        "a definition sees only its parameters",
    )


def test_columns_may_still_be_called_so(run: Run) -> None:
    done = run('keep rows where all = "1" or any = "2"', "all,any\n1,0\n0,2\n0,0\n")
    assert done.table.num_rows == 2


def test_in_a_group_only_its_own_columns_are_meant(run: Run) -> None:
    done = run("group by a with n = count(), none = if all of (*) is null then 1 else 0", TABLE)
    assert done.table.column("none").to_pylist() == [1, 0]


def test_the_formatter_keeps_it() -> None:
    text = 'mangler 1\nkeep rows where all of (a,  b)  is null and count  = 1\ngroup with n = count( where a = "x" )\n'
    recipe = parse_recipe(Source("r", text), VERBS)
    laid = format_recipe(recipe)
    assert "all of (a, b) is null and" in laid and 'count(where a = "x")' in laid
    again = parse_recipe(Source("r", laid), VERBS)
    assert [i.statement for i in recipe.items if isinstance(i, Step)] == [
        i.statement for i in again.items if isinstance(i, Step)
    ]
