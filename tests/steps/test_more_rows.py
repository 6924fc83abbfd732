"""Splits of several columns, parts that are not wanted, rows repeated, blanks skipped."""

from __future__ import annotations

from itertools import zip_longest
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.conftest import Refused, Run

LISTS = st.lists(st.sampled_from(["a", "b", "é"]), max_size=4)


def rows(done: Any) -> list[tuple[Any, ...]]:
    return [tuple(row.values()) for row in done.table.to_pylist()]


@given(st.lists(st.tuples(LISTS, LISTS), min_size=1, max_size=6))
def test_nth_parts_stand_together(run: Run, pairs: list[tuple[list[str], list[str]]]) -> None:
    table = "k,x,y\n" + "".join(f"{at},{';'.join(x)},{';'.join(y)}\n" for at, (x, y) in enumerate(pairs))
    done = run("split x, y at ';' into rows numbered as n", table)
    wanted = []
    for at, (x, y) in enumerate(pairs):
        together = list(zip_longest(x, y)) or [(None, None)]
        for number, (one, other) in enumerate(together, 1):
            wanted.append((str(at), one, other, number if x or y else None))
    assert rows(done) == wanted
    uneven = sum(len(x) != len(y) for x, y in pairs)
    (line,) = [step for step in done.summary.steps if step.text.startswith("split")]
    assert line.tally.counts["uneven_rows"] == uneven and done.summary.balance.is_even


def test_several_columns_each_by_itself(run: Run) -> None:
    done = run("split a, b at ',' into columns 2", 'a,k,b\n"1,2",x,"3"\n')
    assert done.table.to_pylist() == [
        {"a": "1,2", "a_1": "1", "a_2": "2", "k": "x", "b": "3", "b_1": "3", "b_2": None}
    ]
    aside = run("split a, b at ',' into columns 2 too many aside", 'a,b\n"1,2,3",4\n5,"6,7,8"\n9,9\n')
    assert [row.row for row in aside.rows_aside] == [1, 2] and aside.table.num_rows == 1


def test_only_some_rows_are_split(run: Run) -> None:
    done = run("split a, b at ';' into rows where k = 'y'", "k,a,b\nx,1;2,3\ny,1;2,3\n")
    assert rows(done) == [("x", "1;2", "3"), ("y", "1", "3"), ("y", "2", None)]


def test_a_part_that_is_not_wanted_makes_no_column(run: Run) -> None:
    done = run("split a at ' ' into first, _, _, last in place", "a,_\n1 2 3 4,x\n")
    assert done.table.to_pylist() == [{"first": "1", "last": "4", "_": "x"}]
    done = run("split a at ' ' into first, [_] in place", "a\n1 2\n")
    assert done.table.to_pylist() == [{"first": "1", "_": "2"}]
    done = run("capture a by /(.)(.)(.)/ into one, _, three", "a\nxyz\n")
    assert done.table.to_pylist() == [{"a": "xyz", "one": "x", "three": "z"}]


@pytest.mark.parametrize(
    ("step", "says"),
    [
        ("split a, b at ';' into one, two", "these names are for the parts of one"),
        ("split a, b at ';' into columns", "how many columns each needs"),
        ("split a, b at ';' into rows as part", "several are split"),
        ("split a, a at ';' into rows", "is said twice"),
        ("split a at ';' into _, _", "no part is wanted"),
        ("split a, z at ';' into rows", '"z"'),
        ("repeat rows by a", "Write convert a to integer first"),
        ("join a, b with ' ' into c nulls '?' blanks skip", "blanks are skipped like nulls"),
        ("pivot a into columns", "what is in the new columns"),
        ("pivot a into columns of a", "another column has the values"),
    ],
)
def test_wrong_use(refused: Refused, step: str, says: str) -> None:
    refused(step, "a,b\n1;2,3\n", says)


@given(st.lists(st.integers(0, 4), max_size=8), st.integers(8, 60))
def test_rows_are_repeated(run: Run, times: list[int], block: int) -> None:
    table = "k,n\n" + "".join(f"{at},{count}\n" for at, count in enumerate(times))
    done = run("convert n to integer\nrepeat rows by n", table, partition_size=block)
    assert rows(done) == [(str(at), count) for at, count in enumerate(times) for _ in range(count)]
    balance = done.summary.balance
    assert balance.is_even and balance.dropped == times.count(0)


@pytest.mark.parametrize(("cell", "why"), [("", "is null"), ("-1", "n is -1"), ("1000001", "n is 1000001")])
def test_what_is_no_count_fails(run: Run, cell: str, why: str) -> None:
    table = f"k,n\na,2\nb,{cell}\n"
    done = run("convert n to integer\nrepeat rows by n failures aside", table)
    assert rows(done) == [("a", 2), ("a", 2)]
    assert [(row.row, why in row.reason) for row in done.rows_aside] == [(2, True)]


def test_blanks_are_left_out_like_nulls(run: Run) -> None:
    done = run("join a, b, c with ' ' into d blanks skip", 'a,b,c\nx,"  ",y\n"","",z\n"",,\n')
    assert done.table.column("d").to_pylist() == ["x y", "z", None]


def test_only_the_first_of_these_parts_goes(run: Run) -> None:
    table = 'a\n"elm,oak,elm"\n"oak,ELM,elm,ash"\n"oak"\n'
    done = run("clean list a at ',' without first 'elm', 'ash' anycase", table)
    assert rows(done) == [("oak,elm",), ("oak,elm",), ("oak",)]
    done = run("clean list a at ',' without first 'elm'", table)
    assert rows(done) == [("oak,elm",), ("oak,ELM,ash",), ("oak",)]


def test_rows_are_counted_in_columns(run: Run) -> None:
    done = run("pivot r into columns with count()", "k,r,w\na,x,1\na,x,1\nb,y,1\na,y,1\n")
    assert done.table.to_pylist() == [
        {"k": "a", "w": "1", "x": 2, "y": 1},
        {"k": "b", "w": "1", "x": None, "y": 1},
    ]


def test_a_delimiter_in_another_case_is_pointed_out_where_the_cell_matched_elsewhere_too(run: Run) -> None:
    done = run("split a at ' and ' into rows", "a\nx and y AND z\nq\n")
    assert "1 cell left that would match in another letter case" in str(done.summary.steps[1].remarks)
    done = run("split a at ' and ', ' AND ' into rows", "a\nx and y AND z\nq\n")
    assert "letter case" not in str(done.summary.steps[1].remarks)


def test_a_delimiter_of_several_characters_that_no_cell_holds(run: Run) -> None:
    done = run("split a at ';,' into rows", 'a\n"x;y"\n"x,y;z"\nq\n')
    remarks = str(done.summary.steps[1].remarks)
    assert 'no cell holds ";,", and 2 cells hold one of its characters: at ";", "," cuts at each' in remarks
    whole = run("split a at ';,' into rows", 'a\n"x;,y"\n"x,y"\n')
    assert "of its characters" not in str(whole.summary.steps[1].remarks)
