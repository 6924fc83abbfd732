"""`number rows … within`, `keep first`, `keep last`, `dedupe … leaving`, `require overall`."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.conftest import Refused, Run
from tests.steps.within.test_within import ROWS, compared, worked

from mangler.language.mistake import Refusal

MEMORY = st.sampled_from([None, 4_000])
BY_N = [(1, True)]


def groups_of(rows: list[tuple[Any, ...]], is_sorted: bool) -> dict[Any, list[int]]:
    """The rows of each key, in the order that is asked for."""
    groups: dict[Any, list[tuple[int, tuple[Any, ...]]]] = {}
    for pair in enumerate(rows):
        groups.setdefault(pair[1][0], []).append(pair)
    for group in groups.values():
        if is_sorted:
            group.sort(key=compared(BY_N))
    return {key: [index for index, _ in group] for key, group in groups.items()}


@given(rows=ROWS, memory=MEMORY, block=st.integers(8, 300), is_sorted=st.booleans(), count=st.integers(0, 3))
def test_places_are_those_of_a_loop(
    tmp_path: Path, rows: list[tuple[Any, ...]], memory: int | None, block: int, is_sorted: bool, count: int
) -> None:
    order = " sorted by n descending" * is_sorted
    groups = groups_of(rows, is_sorted)

    def rows_of(steps: str) -> list[Any]:
        return worked(tmp_path, f"number rows as at\n{steps}", rows, memory, block, 2)

    numbered = rows_of(f"number rows as no within k{order} from 5")
    wanted = {index: place + 5 for group in groups.values() for place, index in enumerate(group)}
    assert [row["no"] for row in numbered] == [wanted[index] for index in range(len(rows))]
    for which, part in (("first", slice(0, count)), ("last", slice(-count or 10**9, None))):
        kept = rows_of(f"keep {which} {count} rows within k{order}")
        stay = sorted(index for group in groups.values() for index in group[part])
        assert [row["at"] - 1 for row in kept] == stay
    if is_sorted:
        for which, place in (("first", 0), ("last", -1)):
            kept = rows_of(f"dedupe by k leaving {which}{order}")
            assert [row["at"] - 1 for row in kept] == sorted(group[place] for group in groups.values())


@given(rows=ROWS, block=st.integers(8, 300), count=st.integers(0, 30), memory=MEMORY)
def test_of_the_whole_table(
    tmp_path: Path, rows: list[tuple[Any, ...]], block: int, count: int, memory: int | None
) -> None:
    def kept(step: str) -> list[int]:
        return [
            row["at"] - 1 for row in worked(tmp_path, f"number rows as at\n{step}", rows, memory, block, 3)
        ]

    every = list(range(len(rows)))
    assert kept(f"keep first {count} rows") == every[:count]
    assert kept(f"keep last {count} rows") == (every[-count:] if count else [])
    first = {}
    fullest: dict[Any, tuple[int, int]] = {}
    for index, row in enumerate(rows):
        first.setdefault(row[0], index)
        empty = sum(one is None or one == "" for one in row)
        fullest[row[0]] = min(fullest.get(row[0], (9, 0)), (empty, index))
    assert kept("dedupe by k leaving first") == sorted(first.values())
    assert kept("dedupe by k leaving fullest") == sorted(index for _, index in fullest.values())


def test_rows_can_be_set_aside_after_the_first_of_each_key(run: Run) -> None:
    table = "k,n\na,1\na,2\nb,x\n"
    done = run("dedupe by k leaving first\nconvert n to integer failures aside", table)
    assert done.table.to_pylist() == [{"k": "a", "n": 1}] and [row.row for row in done.rows_aside] == [3]
    with pytest.raises(Refusal, match="aside"):
        run("dedupe by k leaving last\nconvert n to integer failures aside", table)


def test_letter_case_does_not_count_with_anycase(run: Run) -> None:
    table = "k,n\na,1\nA,3\nb,2\n"
    done = run("dedupe by k leaving last sorted by n anycase", table)
    assert [row["k"] for row in done.table.to_pylist()] == ["A", "b"]


@pytest.mark.parametrize(
    ("step", "says"),
    [
        ("keep first -1 rows", "a whole number is expected"),
        ("keep first 2", "rows"),
        ("number rows as k within k", "already"),
        ("number rows as no sorted by z", '"z"'),
        ("require overall n > 2", "several values"),
        ("require overall count()", "a condition is needed"),
    ],
)
def test_wrong_use(refused: Refused, step: str, says: str) -> None:
    refused(step, "k,n\na,1\n", says)


TABLE = "k,n\na,1\nb,2\n"


def test_a_condition_on_all_rows_lets_them_pass_or_stops(run: Run) -> None:
    met = run("convert n to integer\nrequire overall sum(n) = 3 and count(distinct k) = 2", TABLE)
    assert [row["n"] for row in met.table.to_pylist()] == [1, 2]
    with pytest.raises(Refusal) as refusal:
        run('convert n to integer\nrequire overall sum(n) = 4 because "the total"', TABLE)
    assert "the total: sum(n) is 3" in str(refusal.value)
    warned = run("convert n to integer\nrequire overall sum(n) = 4 failures warn", TABLE)
    assert warned.table.num_rows == 2 and "sum(n) is 3" in str(warned.summary.to_json())


def test_a_value_that_cannot_be_made_is_not_as_required(run: Run) -> None:
    with pytest.raises(Refusal, match="1 value could not be made"):
        run("require overall sum(integer(n)) = 1", "k,n\na,1\nb,x\n")


def test_no_rows_at_all_are_looked_at_too(run: Run) -> None:
    with pytest.raises(Refusal, match=r"count\(\) is 0"):
        run("require overall count() > 0", "k,n\n")
