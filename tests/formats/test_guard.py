"""Texts that a spreadsheet would run as formulas: found, warned of, and disarmed so that nothing is lost."""

from __future__ import annotations

from pathlib import Path

import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.formats.guard import formulas_in, with_guard, without_guard

RISKY = [
    "=1+1",
    "@SUM(A1)",
    "+cmd|' /C calc'!A0",
    "-2+3",
    "\t=1",
    "\r=1",
    "\n=1",
    "-abc",
    "+49 30 1234",
    "=",
    "@",
    "-1e5x",
]
HARMLESS = [
    "1",
    "-5",
    "+5",
    "-1,200.50",
    "+1e9",
    "-5%",
    "-1e-9",
    "-",
    "+",
    "",
    "a=1",
    " =1",
    "'",
    "'a",
    "5-3",
    "-.5",
]


@pytest.mark.parametrize("text", RISKY)
def test_found(text: str) -> None:
    flags = formulas_in(pa.array([text, "x", None]))
    assert flags is not None and flags.tolist() == [True, False, False]


def test_harmless() -> None:
    assert formulas_in(pa.array(HARMLESS)) is None


def test_found_beside_lone_signs() -> None:
    """In a column of which only a part is looked at, with nulls."""
    flags = formulas_in(pa.array(["=1", "-", None, "+", "-x", "-", "=2"]).slice(1, 5))
    assert flags is not None and flags.tolist() == [False, False, False, True, False]


@given(st.lists(st.one_of(st.none(), st.text(alphabet="='@+-1 a\t", max_size=6)), max_size=8))
def test_taking_the_mark_off_gives_back_what_was_there(texts: list[str | None]) -> None:
    guarded, count = with_guard(pa.array(texts, pa.string()))
    assert formulas_in(guarded) is None
    assert without_guard(guarded).to_pylist() == texts
    assert count == sum(one != other for one, other in zip(texts, guarded.to_pylist(), strict=True))


def test_warned_of_and_disarmed(tmp_path: Path) -> None:
    (tmp_path / "e.csv").write_text("note,n\n=1+1,-5\n'=2,-x\nplain,3\n")
    warned = LinkedRecipe.parse("mangler 1").run(tmp_path / "e.csv", tmp_path / "o.csv")
    [warning] = warned.summary.warnings
    assert "2 texts as a formula (1 in note, 1 in n)" in warning and "write guard formulas" in warning
    guarded = LinkedRecipe.parse("mangler 1\nwrite guard formulas").run(
        tmp_path / "e.csv", tmp_path / "o.csv"
    )
    assert not guarded.summary.warnings
    assert (tmp_path / "o.csv").read_text() == "note,n\n'=1+1,-5\n''=2,'-x\nplain,3\n"
    back = LinkedRecipe.parse("mangler 1\nread guard formulas").run(tmp_path / "o.csv", tmp_path / "back.csv")
    assert (tmp_path / "back.csv").read_text() == (tmp_path / "e.csv").read_text()
    assert back.table is None


def test_texts_in_any_form_are_guarded(tmp_path: Path) -> None:
    table = pa.table({"a": pa.array(["=1"], pa.large_string()), "b": pa.array(["=2"]).dictionary_encode()})
    with pa.OSFile(str(tmp_path / "e.arrow"), "wb") as file, pa.ipc.new_file(file, table.schema) as writer:
        writer.write_table(table)
    LinkedRecipe.parse("mangler 1\nwrite guard formulas").run(tmp_path / "e.arrow", tmp_path / "o.csv")
    assert (tmp_path / "o.csv").read_text() == "a,b\n'=1,'=2\n"
