"""What rows ask of their groups, against a plain loop over the same rows, in memory and beyond it."""

from __future__ import annotations

from fractions import Fraction
from functools import cmp_to_key
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.conftest import Run

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.run.options import RunOptions
from mangler.language.mistake import Refusal
from mangler.table import spillable_rows

KEY = st.sampled_from([None, "a", "b", "é"])
WHOLE = st.one_of(st.none(), st.integers(-3, 3), st.integers(-(2**40), 2**40))
FLOAT = st.one_of(st.none(), st.sampled_from([0.1, -0.1, 1e300, -1e300, 5e-324, 3.0, 1e16]))
WORD = st.sampled_from([None, "x", "yy", ""])
ROWS = st.lists(st.tuples(KEY, WHOLE, FLOAT, WORD), max_size=25)
CALLS = (
    't = sum(n), c = count(w), mid = median(n), all = join(w, "|"), kinds = count(distinct w), g = sum(f),'
    " lo = min(n), run = running(sum(n)), rows = running(count()), usual = running(mean(f)), best = running(max(w)),"
    " least = running(min(n)), one = running(first(w)), end = running(last(w)), p = previous(n), p2 = previous(w, 2),"
    " x = next(n), x3 = next(f, 3), r = rank(), head = first(w)"
)


def cell(value: Any) -> str:
    return "" if value is None else f'"{value!r}"' if isinstance(value, float) else f'"{value}"'


def worked(
    path: Path, steps: str, rows: list[tuple[Any, ...]], memory: int | None, block: int, workers: int
) -> Any:
    extract = path / "extract.csv"
    extract.write_text("\n".join(["k,n,f,w", *(",".join(map(cell, row)) for row in rows)]) + "\n", "utf-8")
    options = RunOptions(memory=memory, partition_size=block, workers=workers)
    recipe = LinkedRecipe.parse(f"mangler 1\nconvert n to integer\nconvert f to float\n{steps}")
    result = recipe.run(extract, options=options)
    assert result.summary.balance.is_even and result.summary.balance.read == len(rows)
    return result.table.to_pylist()


def compared(columns: list[tuple[int, bool]]) -> Any:
    """The order of rows by these columns, each with whether it is descending; nulls last."""

    def compare(a: Any, b: Any) -> int:
        for column, descending in columns:
            x, y = a[1][column], b[1][column]
            if x == y:
                continue
            if x is None or y is None:
                return 1 if x is None else -1
            return (1 if x > y else -1) * (-1 if descending else 1)
        return 0

    return cmp_to_key(compare)


def mean_of(numbers: list[float]) -> float | None:
    return float(sum(map(Fraction, numbers)) / len(numbers)) if numbers else None


def expected(
    rows: list[tuple[Any, ...]], keys: list[int], by: list[tuple[int, bool]], seen: list[bool]
) -> list[dict[str, Any] | None]:
    """By a loop: for each row what its group has to say; None for rows that are not seen."""
    out: list[dict[str, Any] | None] = [None] * len(rows)
    groups: dict[Any, list[tuple[int, tuple[Any, ...]]]] = {}
    for index, row in enumerate(rows):
        if seen[index]:
            groups.setdefault(tuple(row[key] for key in keys), []).append((index, row))
    for group in groups.values():
        group.sort(key=compared(by))
        ns = [row[1] for _, row in group]
        fs = [row[2] for _, row in group]
        ws = [row[3] for _, row in group]
        in_place = [row[3] for _, row in sorted(group, key=lambda pair: pair[0])] if not by else ws
        there = sorted(n for n in ns if n is not None)
        middle = None
        if there:
            low, high = there[(len(there) - 1) // 2], there[len(there) // 2]
            middle = float(low) if low == high else low / 2 + high / 2
        for place, (index, row) in enumerate(group):
            n_far = [n for n in ns[: place + 1] if n is not None]
            f_far = [f for f in fs[: place + 1] if f is not None]
            w_far = [w for w in ws[: place + 1] if w is not None]
            words = [w for w in in_place if w is not None]
            equal = [other for other, (_, one) in enumerate(group) if all(one[c] == row[c] for c, _ in by)]
            out[index] = {
                "t": sum(there) if there else None,
                "c": len(words),
                "mid": middle,
                "all": "|".join(words) if words else None,
                "kinds": len(set(words)),
                "g": float(sum(Fraction(f) for f in fs if f is not None))
                if any(f is not None for f in fs)
                else None,
                "lo": there[0] if there else None,
                "run": sum(n_far) if n_far else None,
                "rows": place + 1,
                "usual": mean_of(f_far),
                "best": max(w_far, default=None),
                "least": min(n_far, default=None),
                "one": w_far[0] if w_far else None,
                "end": w_far[-1] if w_far else None,
                "p": ns[place - 1] if place else None,
                "p2": ws[place - 2] if place > 1 else None,
                "x": ns[place + 1] if place + 1 < len(ns) else None,
                "x3": fs[place + 3] if place + 3 < len(fs) else None,
                "r": equal[0] + 1,
                "head": words[0] if words else None,
            }
    return out


@settings(max_examples=150, deadline=None)
@given(
    rows=ROWS,
    memory=st.sampled_from([None, 4_000, 40_000]),
    block=st.integers(8, 300),
    workers=st.integers(1, 3),
    within=st.sampled_from([("all rows", []), ("k", [0]), ("k, w", [0, 3])]),
    order=st.sampled_from(
        [("n", [(1, False)]), ("w descending, n", [(3, True), (1, False)]), ("k", [(0, False)])]
    ),
    where=st.booleans(),
    piece=st.sampled_from([200, 4 << 20]),
)
def test_each_row_sees_of_its_group_what_a_loop_sees(
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
    rows: list[tuple[Any, ...]],
    memory: int | None,
    block: int,
    workers: int,
    within: tuple[str, list[int]],
    order: tuple[str, list[tuple[int, bool]]],
    where: bool,
    piece: int,
) -> None:
    monkeypatch.setattr(spillable_rows, "BLOCK", piece)
    step = f"make {CALLS} within {within[0]} sorted by {order[0]}" + " where n is not null" * where
    seen = [row[1] is not None or not where for row in rows]
    got = worked(tmp_path, step, rows, memory, block, workers)
    wanted = expected(rows, within[1], order[1], seen)
    for row, one, want in zip(rows, got, wanted, strict=True):
        assert (one["k"], one["n"], one["f"], one["w"]) == row
        for name in CALLS_BY_NAME:
            assert one[name] == (None if want is None else want[name]), name


CALLS_BY_NAME = [
    part.split(" = ")[0].strip()
    for part in CALLS.replace(", 2)", ")").replace(", 3)", ")").replace(', "|")', ")").split(",")
]


@settings(max_examples=60, deadline=None)
@given(rows=ROWS, block=st.integers(8, 300), memory=st.sampled_from([None, 4_000]))
def test_without_an_order_a_group_is_as_it_stands(
    tmp_path: Path, rows: list[tuple[Any, ...]], block: int, memory: int | None
) -> None:
    step = "make t = sum(n), head = first(w), g = sum(f) within k"
    got = worked(tmp_path, step, rows, memory, block, 2)
    wanted = expected(rows, [0], [], [True] * len(rows))
    for one, want in zip(got, wanted, strict=True):
        assert want is not None and {name: one[name] for name in ("t", "head", "g")} == {
            name: want[name] for name in ("t", "head", "g")
        }


TABLE = "kiln,made,fired_on\n007,3,2026-05-11\n012,2,2026-05-04\n"


@pytest.mark.parametrize(
    ("step", "word", "says"),
    [
        (
            "make p = previous(made, -1) within kiln sorted by made",
            "wrong-argument",
            "next(made) looks the other way",
        ),
        ("make p = previous(made, 0) within kiln sorted by made", "wrong-argument", "from 1 to 1,000,000"),
        ("make p = previous(made, 1.5) within kiln sorted by made", "wrong-argument", "previous(x [, n])"),
        ("make p = previous() within kiln sorted by made", "wrong-argument", "previous has no argument here"),
        ("make r = rank() within kiln", "order-needed", "within … sorted by COLUMN"),
        ("make r = rank(made) within kiln sorted by made", "wrong-argument", "rank takes no argument"),
        ("make t = sum(made)", "aggregate-without-group", "within"),
        ("make r = rank()", "order-needed", "within"),
        ("make t = running(made) within kiln sorted by made", "wrong-argument", "goes around one aggregate"),
        (
            "make t = running(median(made)) within kiln sorted by made",
            "wrong-argument",
            "needs all values at once",
        ),
        (
            "make t = running(count(distinct made)) within kiln sorted by made",
            "wrong-argument",
            "needs all values",
        ),
        (
            "make t = running(first(made sorted by kiln)) within kiln sorted by made",
            "wrong-argument",
            "Take this one",
        ),
        ("make t = sum(previous(made)) within kiln sorted by made", "aggregate-in-aggregate", "of its own"),
        ("make t = made sorted by made", "order-of-nothing", "within COLUMNS"),
        ("make t = sum(made) within kiln failures aside", "aside-within", "failures null"),
        ("make g = 1, t = sum(made) within g", "unknown-column", "is made by this statement"),
        ("make t = sum(made) within z", "unknown-column", "z"),
        ("make x = split(kiln, '0')\nmake t = sum(made) within x", "wrong-type", "is a list"),
        ("make x = split(kiln, '0')\nmake t = rank() within kiln sorted by x", "wrong-type", "no order"),
    ],
)
def test_wrong_use_is_met_with_the_right_line(run: Run, step: str, word: str, says: str) -> None:
    with pytest.raises(Refusal) as refusal:
        run(f"convert made to integer\n{step}", TABLE)
    (mistake,) = refusal.value.mistakes
    assert mistake.word == word
    assert says in f"{mistake.message}\n{mistake.advice}"


def test_a_sum_that_is_too_large_fails_in_all_rows_of_its_group(run: Run) -> None:
    table = f"k,n\na,{2**63 - 1}\na,1\nb,5\n"
    done = run("convert n to integer\nmake t = sum(n) within k failures null", table)
    assert [row["t"] for row in done.table.to_pylist()] == [None, None, 5]


def test_an_argument_that_fails_is_null_where_the_cells_get_a_value(run: Run) -> None:
    table = "k,n\na,1\na,x\nb,x\n"
    done = run("make t = sum(integer(n)) within k failures 0", table)
    assert [row["t"] for row in done.table.to_pylist()] == [1, 1, None]


@pytest.mark.parametrize("call", ['join(w, "")', "size(list(w))"])
def test_a_group_whose_values_have_no_room_is_refused_with_its_key(tmp_path: Path, call: str) -> None:
    extract = tmp_path / "e.csv"
    extract.write_text("k,w\n" + "".join(f"a,{'x' * 60}\n" for _ in range(150_000)) + "b,y\n")
    recipe = LinkedRecipe.parse(f"mangler 1\nmake t = {call} within k")
    with pytest.raises(Refusal) as refusal:
        recipe.run(extract, tmp_path / "o.csv", options=RunOptions(memory=16_000_000))
    (mistake,) = refusal.value.mistakes
    assert mistake.word == "group-too-large" and "one group (k a) take" in mistake.message
    assert "--memory allows more" in mistake.advice and not (tmp_path / "o.csv").exists()


def test_a_group_of_any_size_has_aggregates_that_fold(tmp_path: Path) -> None:
    extract = tmp_path / "e.csv"
    extract.write_text("k,n\n" + "".join(f"a,{number % 7}\n" for number in range(150_000)))
    recipe = LinkedRecipe.parse(
        "mangler 1\nconvert n to integer\nmake t = sum(n), r = running(count()), x = next(n, 3)"
        " within all rows sorted by n descending"
    )
    wanted = recipe.run(extract).table
    assert recipe.run(extract, options=RunOptions(memory=2_000_000)).table.equals(wanted)
    assert set(wanted.column("t").to_pylist()) == {sum(number % 7 for number in range(150_000))}
