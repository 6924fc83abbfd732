"""`group` against plain Python, in memory and beyond it."""

from __future__ import annotations

import math
from collections import defaultdict
from decimal import Decimal
from fractions import Fraction
from pathlib import Path
from statistics import median
from typing import Any

import pyarrow as pa
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.conftest import Refused, Run

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.run.options import RunOptions
from mangler.expressions.aggregates import collecting
from mangler.language.mistake import ExitCode, Refusal
from mangler.steps.group import grouping, numbered
from mangler.table import partitioned_fold as folding

KEY = st.sampled_from([None, "", "a", "A", "b", "é", "aa"])
WORD = st.sampled_from([None, "x", "X", "yy", "", "ß"])
WHOLE = st.one_of(st.none(), st.integers(-(2**31), 2**31), st.integers(-3, 3))
FLOAT = st.one_of(
    st.none(),
    st.sampled_from([0.1, -0.1, 1e300, -1e300, 5e-324, 3.0]),
    st.floats(-1e200, 1e200, allow_nan=False),
)
ROWS = st.lists(st.tuples(KEY, KEY, WORD, WHOLE, FLOAT), max_size=30)


def cell(value: Any) -> str:
    return "" if value is None else f'"{value!r}"' if isinstance(value, float) else f'"{value}"'


def grouped(
    path: Path, steps: str, rows: list[tuple[Any, ...]], memory: int | None, block: int, workers: int = 1
) -> Any:
    extract = path / "extract.csv"
    lines = ["k,l,w,n,f", *(",".join(map(cell, row)) for row in rows)]
    extract.write_text("\n".join(lines) + "\n", "utf-8")
    options = RunOptions(memory=memory, partition_size=block, workers=workers)
    result = LinkedRecipe.parse(f"mangler 1\nconvert n to integer\nconvert f to float\n{steps}").run(
        extract, options=options
    )
    balance = result.summary.balance
    assert balance.is_even and balance.read == len(rows)
    return result


@settings(max_examples=200)
@given(
    rows=ROWS,
    memory=st.sampled_from([None, 300, 2000, 20_000]),
    block=st.integers(8, 300),
    workers=st.integers(1, 3),
    by=st.sampled_from(["", "by k ", "by k, l "]),
    chunk=st.sampled_from([1, 4, 1000]),
)
def test_aggregates_are_what_python_makes_of_the_rows(
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
    rows: list[tuple[Any, ...]],
    memory: int | None,
    block: int,
    workers: int,
    by: str,
    chunk: int,
) -> None:
    monkeypatch.setattr(folding, "CHUNK", chunk)
    monkeypatch.setattr(grouping, "ROWS_AT_A_TIME", 2 * chunk)
    monkeypatch.setattr(grouping, "LARGEST_TOGETHER", 9 * chunk)
    monkeypatch.setattr(numbered, "AT_ONCE", chunk)
    step = (
        f"group {by}with rows = count(), words = count(w), kinds = count(distinct w), total = sum(n), usual = mean(n),"
        " mid = median(n), low = min(n), high = max(w), one = first(w), end = last(n), early = first(w sorted by n),"
        " late = last(w sorted by n), most = first(w sorted by n descending), sum_f = sum(f), mean_f = mean(f),"
        ' all = join(w, ";"), each = join(distinct w, ";" sorted by n descending), l1 = list(n)'
    )
    width = by.count(",") + 1 if by else 0
    groups: dict[tuple[Any, ...], list[tuple[Any, ...]]] = defaultdict(list)
    for row in rows:
        groups[row[:width]].append(row)
    if not by and not rows:
        groups[()] = []
    expected = [(*key, *model(members)) for key, members in groups.items()]
    try:
        result = grouped(tmp_path, step, rows, memory, block, workers)
    except Refusal as refusal:  # a sum of floats beyond the largest is a failure
        assert "the sum is too large" in str(refusal)
        assert any(math.inf in row for row in expected)
        return
    columns = [column.to_pylist() for column in result.table.columns]
    assert list(zip(*columns, strict=True)) == expected
    assert result.summary.balance.merged == max(0, len(rows) - len(groups))


def model(rows: list[tuple[Any, ...]]) -> tuple[Any, ...]:
    words = [row[2] for row in rows if row[2] is not None]
    numbers = [row[3] for row in rows if row[3] is not None]
    floats = [Fraction(row[4]) for row in rows if row[4] is not None]
    with_word = [row for row in rows if row[2] is not None]

    def least_first(row: tuple[Any, ...]) -> tuple[bool, int]:
        return row[3] is None, row[3] or 0

    def most_first(row: tuple[Any, ...]) -> tuple[bool, int]:
        return row[3] is None, -(row[3] or 0)

    ascending, descending = sorted(with_word, key=least_first), sorted(with_word, key=most_first)
    backwards = with_word[::-1]
    latest = sorted(backwards, key=most_first)
    return (
        len(rows),
        len(words),
        len(set(words)),
        sum(numbers) if numbers else None,
        sum(numbers) / len(numbers) if numbers else None,
        float(median(numbers)) if numbers else None,
        min(numbers, default=None),
        max(words, default=None, key=str.encode),
        words[0] if words else None,
        numbers[-1] if numbers else None,
        ascending[0][2] if with_word else None,
        latest[0][2] if with_word else None,
        descending[0][2] if with_word else None,
        rounded(sum(floats)) if floats else None,
        rounded(sum(floats) / len(floats)) if floats else None,
        ";".join(words) if words else None,
        ";".join(dict.fromkeys(row[2] for row in descending)) if words else None,
        [str(number) for number in numbers] or None,
    )


def rounded(exact: Any) -> float:
    try:
        return float(exact)
    except OverflowError:
        return math.inf


@settings(max_examples=60)
@given(
    values=st.lists(st.one_of(st.none(), st.decimals(-(10**28), 10**28, places=9)), max_size=20),
    memory=st.sampled_from([None, 300]),
)
def test_decimals_add_up_exactly(tmp_path: Path, values: list[Decimal | None], memory: int | None) -> None:
    extract = tmp_path / "extract.csv"
    extract.write_text("d\n" + "".join(f"{'null' if v is None else f'{v:f}'}\n" for v in values), "utf-8")
    steps = 'mangler 1\nread nulls "null"\nconvert d to decimal\n'
    whole = LinkedRecipe.parse(f"{steps}group with total = sum(d), low = min(d), usual = mean(d)")
    row = whole.run(extract, options=RunOptions(memory=memory, partition_size=50)).table.to_pylist()[0]
    there = [value for value in values if value is not None]
    total = row["total"]
    assert (total is None) == (not there) and Fraction(total or 0) == sum(map(Fraction, there))
    assert row["low"] == min(there, default=None)
    if there:
        assert row["usual"] == pytest.approx(float(sum(map(Fraction, there)) / len(there)), rel=1e-12)


def test_values_of_a_group_that_no_cell_can_hold(run: Run, monkeypatch: pytest.MonkeyPatch) -> None:
    def too_large(*_: Any) -> Any:
        raise pa.ArrowCapacityError("array cannot contain more than 2147483646 bytes")

    monkeypatch.setattr(collecting, "joined", too_large)
    with pytest.raises(
        Refusal, match=r"the values of one group \(k a\) are too large for one cell: more than 2 GB"
    ) as refused:
        run('group by k with t = join(w, ",")', "k,w\na,x\nb,y\n")
    assert refused.value.code is ExitCode.ANSWER_IS_NO


def test_there_and_back_again(run: Run) -> None:
    extract = "kiln,glaze\n007,ash\n007,shino\n012,ash\n044,\n"
    kilns = run('group by glaze with kilns = join(kiln, ", ")', extract).table.to_pydict()
    assert kilns == {"glaze": ["ash", "shino", None], "kilns": ["007, 012", "007", "044"]}
    back = 'group by kiln with glazes = join(glaze, ", ")\nsplit glazes at "," into rows'
    again = run(back, extract).table.to_pydict()
    assert again == {"kiln": ["007", "007", "012", "044"], "glazes": ["ash", "shino", "ash", None]}


def test_letter_case(run: Run) -> None:
    extract = "studio,glaze\nClay Works,Ash\nclay works,ash\nQuayside,ASH\n,x\n"
    table = run('group by studio with g = join(distinct glaze, ",") anycase', extract).table.to_pydict()
    assert table == {"studio": ["Clay Works", "Quayside", None], "g": ["Ash", "ASH", "x"]}


def test_what_it_tells(run: Run) -> None:
    result = run('group by k with t = join(w, ","), n = count(w)', "k,w\na,x\na,\nb,\n")
    line = result.summary.steps[1]
    assert line.facts == ['join(w, ",") skipped 2 nulls']
    assert (line.tally.rows_in, line.tally.rows_out, line.tally.rows_merged) == (3, 2, 1)
    alone = run("group by k with n = count()", "k\na\nb\n").summary.steps[1]
    assert alone.remarks == ["no rows came together: each is a group of its own"]


def test_of_no_rows(run: Run) -> None:
    result = run("group with n = count(), t = sum(length(a)), j = join(a, ','), h = max(a)", "a,b\n")
    assert result.table.to_pylist() == [{"n": 0, "t": None, "j": None, "h": None}]
    assert result.summary.balance.added == 1 and result.summary.balance.is_even
    assert run("group by a with n = count()", "a,b\n").table.num_rows == 0


def test_keys_of_other_types_and_steps_after_it(run: Run) -> None:
    steps = (
        "convert n to float\nmake b = n > 1\ngroup by n, b with rows = count(), row = min(extract_row())\n"
        "keep rows where rows > 1\nmake twice = rows * 2"
    )
    table = run(steps, "n\n0\n-0\n2.0\n2\n7\n").table
    assert table.to_pylist() == [
        {"n": 0.0, "b": False, "rows": 2, "row": 1, "twice": 4},
        {"n": 2.0, "b": True, "rows": 2, "row": 3, "twice": 4},
    ]


def test_what_fails(run: Run) -> None:
    extract = "k,n\na,1\na,tbc\nb,2\n"
    with pytest.raises(Refusal, match='row 2, line 3: "tbc" is not an integer') as refused:
        run("group by k with t = sum(integer(n))", extract)
    assert refused.value.code is ExitCode.ANSWER_IS_NO and "failures null" in str(refused.value)
    result = run("group by k with t = sum(integer(n)) failures null", extract)
    assert result.table.to_pylist() == [{"k": "a", "t": 1}, {"k": "b", "t": 2}]
    assert result.summary.steps[1].remarks == ["1 cell became null because the value could not be made"]
    with pytest.raises(Refusal, match="row 1: division by zero"):
        run("group by k with t = 1 / count(distinct null)", extract)
    large = f"n\n{2**62}\n{2**62}\n"
    with pytest.raises(Refusal, match="the sum has more than 64 bits"):
        run("convert n to integer\ngroup with t = sum(n)", large)
    table = run("convert n to integer\ngroup with t = sum(n), m = mean(n) failures null", large).table
    assert table.to_pylist() == [{"t": None, "m": float(2**62)}]


def test_a_defined_function_takes_aggregates(run: Run) -> None:
    steps = "define share(a, b) = round(100 * a / b, 1)\ngroup by k with s = share(count(n), count())"
    assert run(steps, "k,n\na,1\na,\na,2\n").table.to_pylist() == [{"k": "a", "s": 66.7}]


@pytest.mark.parametrize(
    ("step", "message"),
    [
        ("group by k with t = sum(w)", "sum works on numbers, and w is text"),
        ("group by k with t = sum(w)", 'join(w, ", ")'),
        ("group by k with t = mean(w)", "convert w to integer"),
        ("group by k with t = sum(upper(w))", "sum(integer(upper(w)))"),
        ("group by k with t = sum(w = 'x')", "if w = 'x' then 1 else 0"),
        ("group by k with t = w", 'a group may have several values of "w", and this asks for one'),
        ("group by k with t = w", "first(w)"),
        ("group by k with t = sum(max(n))", "max is inside sum"),
        ("group by k with t = join(w)", "a text to put between the values is needed"),
        ("group by k with t = join(w, n)", "n is not a plain text"),
        ("group by k with t = sum(distinct length(w))", "sum takes no distinct"),
        ("group by k with t = max(w sorted by n)", "max takes no sorted by"),
        ("group by k with t = count(w, n)", "count has 2 arguments here"),
        ("group by k with t = avg(n)", 'there is no function "avg"'),
        ("group by k with t = avg(n)", "Write mean(n)."),
        ("group by k with t = totl(n) + maxx(n)", "there is no aggregate or function"),
        ("group by k with t = count(*)", "count() counts rows"),
        ("group by k with k = count()", '"k" is a grouping column'),
        ("group by k with t = count(), t = sum(n)", '"t" is made twice'),
        ("group by q with t = count()", 'the extract has no column "q"'),
        ("group by k with t = sum(q)", 'the extract has no column "q"'),
        ("group by k", "with is expected"),
        ("make l = split(w, ';')\ngroup by l with n = count()", '"l" is a list, and lists are not compared'),
        ("make l = split(w, ';')\ngroup by k with n = max(l)", "max works on single values, and l is list"),
        ("make t = sum(n)", "make NAME = sum(n) within COLUMNS"),
        ("group by k with t = count() failures aside", "failures"),
    ],
)
def test_mistakes(refused: Refused, step: str, message: str) -> None:
    refused(step, "k,w,n\na,x,1\n", message)
