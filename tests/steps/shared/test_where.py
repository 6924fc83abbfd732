"""The clause `where` on every verb that changes cells: other rows stay as they are, and never fail."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mangler.engine.run.in_memory_run import InMemoryResult, run_in_memory
from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.language.tables import Head, SmallTable
from mangler.steps import VERBS

STEPS = {
    "trim": "trim a, b squeeze",
    "replace": "replace 'a' with 'bb', /b+/ with '<\\0>' in a, b",
    "replace whole": "replace 'a' with 'x' in a whole anycase",
    "nullify": "nullify 'a', '' in a, b anycase",
    "recase": "recase a, b upper",
    "fill": "fill a with '?'",
    "fill with": 'fill a with "{b}!"',
    "keep characters": "keep characters letters in a, b",
    "drop characters": "drop characters spaces in a with '_'",
    "map": "map a 'a' to 'x', 'b' to null unmatched '?'",
    "split": "split a at 'b' into d, e? too many cut",
    "split into rows": "split a at 'a', 'b' into rows as d numbered as e keep empty",
    "split in the cell": "split a at 'b' into rows keep empty",
    "capture": "capture a by /(a)(b)?/ into d, e",
    "join": "join a, b with '-' into d",
    "clean list": "clean list a, b at 'b' with '+' keep empty",
    "lookup": "lookup 'r.csv' on a = k bring v as d several all",
    "lookup drop": "lookup 'r.csv' on a = k matched drop",
    "make": 'make a = "{a}{b}"',
    "change": "change a, b to replace(cell, 'a', b)",
}
CELLS = st.none() | st.sampled_from(["a", "A", " b ", "ab", "", "é\u00a0x"])
ROWS = st.lists(st.tuples(CELLS, CELLS, st.sampled_from(["yes", "no", None])), max_size=12)


@pytest.fixture(autouse=True)
def a_file_to_look_into(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (tmp_path / "r.csv").write_text("k,v\na,1\nA,2\na,3\n")
    monkeypatch.chdir(tmp_path)


def result(step: str, rows: list[tuple[str | None, ...]]) -> InMemoryResult:
    table = SmallTable((Head("a"), Head("b"), Head("c")), tuple(rows))
    return run_in_memory(LinkedRecipe.parse(f"mangler 1\n{step}").parsed.statements, table)


def outcome(step: str, rows: list[tuple[str | None, ...]]) -> list[tuple[Any, ...]]:
    return list(result(step, rows).rows)


@pytest.mark.parametrize("step", STEPS.values(), ids=STEPS)
@settings(max_examples=40)
@given(ROWS)
def test_the_rows_that_meet_it_change_as_if_they_were_alone(
    step: str, rows: list[tuple[str | None, ...]]
) -> None:
    """Columns that it makes are null in the others."""
    names = result(step, rows).names
    expected = []
    for row in rows:
        own = dict(zip("abc", row, strict=True))
        expected += outcome(step, [row]) if row[2] == "yes" else [tuple(own.get(name) for name in names)]
    assert outcome(f"{step} where c = 'yes'", rows) == expected


def test_every_verb_that_takes_where_is_held_to_it() -> None:
    taking = {name for name in VERBS.names() if "[where CONDITION]" in VERBS.declaration(name).usage}
    held = {next(name for name in VERBS.names() if step.startswith(f"{name} ")) for step in STEPS.values()}
    assert taking - {"convert"} == held  # convert refuses it, with the way out


def test_filling_down_looks_at_all_rows_and_fills_those_that_meet_it() -> None:
    rows: list[tuple[str | None, ...]] = [
        ("x", None, "no"),
        (None, None, "yes"),
        (None, None, "no"),
        (None, None, "yes"),
    ]
    assert [row[0] for row in outcome("fill a down where c = 'yes'", rows)] == ["x", "x", None, "x"]


def test_the_condition_sees_the_values_from_before_the_statement() -> None:
    rows: list[tuple[str | None, ...]] = [("a", "b", None), ("b", "a", None)]
    assert outcome("change a, b to upper(cell) where a = 'a'", rows) == [("A", "B", None), ("b", "a", None)]
    assert outcome("make a = b, b = a where a = 'a'", rows) == [("b", "a", None), ("b", "a", None)]


def test_new_columns_are_null_in_the_other_rows() -> None:
    rows: list[tuple[str | None, ...]] = [("a", "b", "yes"), ("a", "b", None)]
    assert outcome("make d = length(a), e = b where c = 'yes'", rows) == [
        ("a", "b", "yes", "1", "b"),
        ("a", "b", None, None, None),
    ]
