"""`stddev`, `variance`, `quantile`, `count(where …)` against plain Python."""

from __future__ import annotations

import math
import statistics
from fractions import Fraction
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.conftest import Refused, Run

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.run.options import RunOptions

NUMBERS = st.lists(
    st.tuples(st.sampled_from("ab"), st.none() | st.sampled_from([1e9, 1e9 + 0.5, -3.25, 0.1, 1e-8, 7.0])),
    max_size=20,
)


@given(NUMBERS, st.integers(8, 200), st.sampled_from([None, 2_000]))
def test_the_spread_of_numbers(
    tmp_path: Path, rows: list[tuple[str, float | None]], block: int, memory: int | None
) -> None:
    path = tmp_path / "e.csv"
    path.write_text("k,n\n" + "".join(f"{k},{'' if n is None else repr(n)}\n" for k, n in rows))
    recipe = LinkedRecipe.parse(
        "mangler 1\nconvert n to float\ngroup by k with s = stddev(n), v = variance(n), q = quantile(n, 0.3),"
        " m = quantile(n, 0.5), low = quantile(n, 0), high = quantile(n, 1), c = count(where n > 1)"
    )
    options = RunOptions(partition_size=block, memory=memory)
    for row in recipe.run(path, options=options).table.to_pylist():
        numbers = sorted(n for k, n in rows if k == row["k"] and n is not None)
        assert row["c"] == sum(n > 1 for n in numbers)
        if len(numbers) < 2:
            assert row["s"] is None and row["v"] is None
        else:
            exact = statistics.variance(map(Fraction, numbers))
            assert row["v"] == float(exact)
            assert math.isclose(row["s"], math.sqrt(exact), rel_tol=1e-15, abs_tol=0)
        if numbers:
            assert (row["low"], row["high"]) == (numbers[0], numbers[-1])
            assert row["m"] == pytest.approx(statistics.median(numbers))
            place = 0.3 * (len(numbers) - 1)
            below = math.floor(place)
            above = numbers[min(below + 1, len(numbers) - 1)]
            assert row["q"] == pytest.approx(numbers[below] + (place - below) * (above - numbers[below]))


def test_whole_numbers_and_decimals_have_a_spread_too(run: Run) -> None:
    done = run(
        "convert n to integer\nconvert d to decimal\ngroup with s = stddev(n), v = variance(d)",
        "n,d\n2,0.5\n4,1.5\n",
    )
    assert done.table.to_pylist() == [{"s": math.sqrt(2), "v": 0.5}]


@pytest.mark.parametrize(
    ("expression", "says"),
    [
        ("quantile(n)", "a share from 0 to 1 is needed"),
        ("quantile(n, 90)", "is not a share"),
        ("quantile(n, n)", "is not a share"),
        ("stddev(k)", "works on numbers"),
        ("count(where n)", "a condition is needed"),
        ("count(where)", '"where"'),
    ],
)
def test_wrong_use(refused: Refused, expression: str, says: str) -> None:
    refused(f"convert n to integer\ngroup with x = {expression}", "k,n\na,1\n", says)


def test_squares_that_are_too_large_fail(run: Run) -> None:
    done = run("convert n to float\ngroup with v = variance(n) failures null", "n\n1e200\n1\n")
    assert done.table.to_pylist() == [{"v": None}]


def test_a_function_of_the_recipe_goes_before_a_newer_aggregate(run: Run) -> None:
    done = run("define variance(x) = upper(x)\ngroup by k with v = variance(k)", "k\na\n")
    assert done.table.to_pylist() == [{"k": "a", "v": "A"}]


def test_a_column_called_where_stands_in_brackets(run: Run) -> None:
    assert run("group with n = count([where])", "where\nx\n\ny\n").table.to_pylist() == [{"n": 2}]
