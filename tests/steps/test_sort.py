"""`sort` and `dedupe` against plain Python, in memory and beyond it."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.conftest import Refused, Run

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.run.options import RunOptions
from mangler.language.mistake import Refusal

CELL = st.sampled_from([None, "", "a", "A", "b", "B", "aa", "é", "z", "10", "9"])
ROWS = st.lists(st.tuples(CELL, CELL), max_size=30)
MEMORY = st.sampled_from([None, 200, 900, 4000])


def rows_of(
    tmp_path: Path, step: str, rows: list[tuple[Any, ...]], memory: int | None, block: int
) -> list[Any]:
    """The rows that come out, each with the number that it had."""
    lines = [
        ",".join("" if cell is None else f'"{cell}"' for cell in row) + f",{n}" for n, row in enumerate(rows)
    ]
    path = tmp_path / "extract.csv"
    path.write_text("\n".join(["a,b,n", *lines]) + "\n", "utf-8")
    options = RunOptions(memory=memory, partition_size=block)
    result = LinkedRecipe.parse(f"mangler 1\n{step}").run(path, options=options)
    assert result.summary.balance.is_even
    return [int(n) for n in result.table.column("n").to_pylist()]


@settings(max_examples=150)
@given(
    rows=ROWS,
    memory=MEMORY,
    block=st.integers(8, 200),
    down=st.booleans(),
    anycase=st.booleans(),
    nulls_first=st.booleans(),
)
def test_rows_come_in_the_order_that_python_gives_them(
    tmp_path: Path,
    rows: list[tuple[Any, ...]],
    memory: int | None,
    block: int,
    down: bool,
    anycase: bool,
    nulls_first: bool,
) -> None:
    step = "sort by a" + " descending" * down + ", b" + " anycase" * anycase + " nulls first" * nulls_first

    def key(cell: str | None) -> tuple[bool, bytes]:
        """Nulls after all values, or before."""
        return (cell is None) != nulls_first, (cell or "").lower().encode() if anycase else (
            cell or ""
        ).encode()

    expected = sorted(range(len(rows)), key=lambda n: key(rows[n][1]))
    if down:  # stable: equal rows stay as they were, and nulls at their end
        by_value = sorted(expected, key=lambda n: key(rows[n][0])[1], reverse=True)
        by_value = [
            n
            for value in dict.fromkeys(key(rows[n][0])[1] for n in by_value)
            for n in expected
            if key(rows[n][0])[1] == value
        ]
        expected = sorted(by_value, key=lambda n: key(rows[n][0])[0])
    else:
        expected.sort(key=lambda n: key(rows[n][0]))
    assert rows_of(tmp_path, step, rows, memory, block) == expected


@settings(max_examples=150)
@given(rows=ROWS, memory=MEMORY, block=st.integers(8, 200), last=st.booleans(), anycase=st.booleans())
def test_of_rows_alike_one_stays(
    tmp_path: Path, rows: list[tuple[Any, ...]], memory: int | None, block: int, last: bool, anycase: bool
) -> None:
    chosen: dict[Any, int] = {}
    for n, row in enumerate(rows):
        key = tuple(cell and cell.lower() for cell in row) if anycase else row
        if last or key not in chosen:
            chosen[key] = n
    step = "dedupe by a, b" + " leaving last" * last + " anycase" * anycase
    assert rows_of(tmp_path, step, rows, memory, block) == sorted(chosen.values())


def test_types_have_their_own_order(run: Run) -> None:
    extract = "n,d\n10,04/05/2026\n9,30/04/2026\n-1,01/05/2026\n,\n"
    steps = 'convert n to integer\nconvert d to date written "%d/%m/%Y"\n'
    assert run(steps + "sort by n", extract).table.column("n").to_pylist() == [-1, 9, 10, None]
    assert run(steps + "sort by n descending", extract).table.column("n").to_pylist() == [10, 9, -1, None]
    days = run(steps + "sort by d nulls first", extract).table.column("d").to_pylist()
    assert [day and day.day for day in days] == [None, 30, 1, 4]
    assert run("convert n to decimal 1\nsort by n", extract).table.column("n").to_pylist()[0] == -1


def test_many_columns_and_many_values_beyond_one_number(run: Run) -> None:
    names = [f"c{n}" for n in range(12)]
    rows = [[str((n * (7 + c)) % 53) for c in range(12)] for n in range(500)]
    extract = "\n".join([",".join(names), *map(",".join, rows)])
    table = run(f"sort by {', '.join(names)}", extract, memory=20_000).table
    assert [list(row.values()) for row in table.to_pylist()] == sorted(rows)


def test_what_a_dedupe_did(run: Run) -> None:
    result = run("dedupe by a", "a,b\nx,1\nx,2\ny,3\n")
    balance = result.summary.balance
    assert (balance.read, balance.dropped, balance.delivered) == (3, 1, 2)
    idle = run("dedupe", "a,b\nx,1\nx,2\n").summary.steps[1]
    assert idle.remarks == ["changed nothing: no two rows are alike"]
    assert run("dedupe\nsort by a", "a\n").table.num_rows == 0


def test_nothing_is_set_aside_after_all_rows_were_seen(run: Run) -> None:
    for step in ("set aside rows where a = 'x' because 'x'", "convert a to integer failures aside"):
        with pytest.raises(Refusal, match=r"cannot be set aside after sort \(line 2\)") as refused:
            run(f"sort by a\n{step}", "a\nx\n")
        assert "Move this step above line 2" in str(refused.value)
    result = run("set aside rows where a = 'x' because 'x'\nsort by a", "a\ny\nx\nb\n")
    assert result.table.column("a").to_pylist() == ["b", "y"] and len(result.rows_aside) == 1


def test_a_step_after_it_that_fails_names_the_row(run: Run) -> None:
    with pytest.raises(Refusal, match='row 1: a: "x" is not an integer'):
        run("sort by a\nconvert a to integer", "a\nx\n1\n")


@pytest.mark.parametrize(
    ("step", "message"),
    [
        ("sort by c", 'the extract has no column "c"'),
        ("sort by a, a", '"a" is said twice'),
        ("sort by a desc", "descending"),
        ('make l = split(a, ";")\nsort by l', '"l" is a list, which has no order'),
        ('make l = split(a, ";")\ndedupe', '"l" is a list, and lists are not compared'),
        ("dedupe by /^q/", "all rows would be alike"),
        ("fill a up within c", 'the extract has no column "c"'),
        ("fill a up failures null", "down and up cannot fail"),
    ],
)
def test_mistakes(refused: Refused, step: str, message: str) -> None:
    refused(step, "a,b\nx,y\n", message)
