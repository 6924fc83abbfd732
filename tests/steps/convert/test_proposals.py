"""Values that do not convert are read in other ways, and the clause that would read them is named."""

from __future__ import annotations

import pytest
from tests.conftest import Refused, Run


@pytest.mark.parametrize(
    ("step", "cells", "says"),
    [
        ("convert n to integer", ["1,234", "2,000", "12", "x"], 'grouping "," would read 2 of 3 values'),
        ("convert n to integer", ["1.5", "2"], "to decimal would read the value"),
        ("convert n to decimal", ["1.234,50"], 'grouping "." would read the value'),
        ("convert n to decimal", ["1,5", "2,25"], 'point "," or grouping "." would read all 2 values'),
        ("convert n to integer", ["$5", "7 EUR"], 'without "$", "EUR" would read all 2 values'),
        ("convert n to integer", ["(45)", "7"], "negatives parentheses would read the value"),
        ("convert n to integer", ["45-"], "negatives trailing would read the value"),
        ("convert n to date", ["24/05/2026", "25/05/2026"], 'written "%d/%m/%Y" would read all 2 values'),
        ("convert n to date", ["04/05/2026"], 'written "%d/%m/%Y" or written "%m/%d/%Y" would read'),
        (
            'convert n to date written "%Y-%m-%d"',
            ["2026-05-04", "24.05.2026"],
            'written "%Y-%m-%d", "%d.%m.%Y" would read the value',
        ),
        ("convert n to timestamp", ["05/24/2026 09:30"], 'written "%m/%d/%Y %H:%M" would read the value'),
        ("convert n to date", ["46146"], "written serial would read the value"),
        ("convert n to boolean", ["Yes", "no"], 'true "yes" false "no" anycase would read all 2 values'),
    ],
)
def test_the_clause_is_named(refused: Refused, step: str, cells: list[str], says: str) -> None:
    refused(step, "n\n" + "".join(f'"{cell}"\n' for cell in cells), says)


def test_what_nothing_reads_is_left_at_that(refused: Refused, run: Run) -> None:
    refused("convert n to integer", "n\nsoon\n", "or another of mangler manual failures.")
    done = run("convert n to integer failures null", "n\nsoon\n")
    assert "would read" not in str(done.summary.steps[1].remarks)


def test_failures_that_pass_are_looked_at_too(run: Run) -> None:
    done = run("convert n to integer failures null", 'n\n"1,234"\n7\n', partition_size=9)
    assert 'grouping "," would read the value' in str(done.summary.steps[1].remarks)


ODD = [f"{number},{number % 7}00" for number in range(1, 900)] + [f"({number})" for number in range(900)]


@pytest.mark.parametrize("size", [40, 1000, 1 << 20])
def test_the_proposal_does_not_depend_on_the_batches(run: Run, size: int) -> None:
    """Of more texts than are kept the same ones are, with all their cells."""
    text = "n\n" + "".join(f'"{cell}"\n' for cell in [*ODD, *ODD[::3], "x" * 5000])
    done = run("convert n to integer failures null", text, partition_size=size)
    (remark,) = (one for one in done.summary.steps[1].remarks if "would read" in one)
    whole = run("convert n to integer failures null", text)
    assert remark in whole.summary.steps[1].remarks
    assert remark.endswith(" values that were looked at")


def test_units_of_all_texts_are_known(run: Run) -> None:
    """Those of the second batch as those of the first."""
    done = run("convert n to integer failures null", 'n\n"5 kg"\n"7 lb"\n', partition_size=7)
    assert 'without "kg", "lb" would read all 2 values' in str(done.summary.steps[1].remarks)
