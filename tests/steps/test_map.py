from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.conftest import Run

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.language.mistake import ExitCode, Refusal

EXTRACT = 'a\n good \n"Good"\n\n""\nfair\ngod\n'


def mapped(run: Run, clauses: str) -> list[Any]:
    return list(run(f"map a {clauses}", EXTRACT + "x\n").table.column("a").to_pylist())


def test_whole_values_by_a_table(run: Run) -> None:
    table = '"good" to "A", "fair" to null, "" to "empty"'
    # A null row of a one-column table, and an empty text.
    assert mapped(run, table) == ["A", "Good", None, "empty", None, "god", "x"]
    assert mapped(run, f"{table} anycase")[1] == "A"
    assert mapped(run, f"{table} unmatched null") == ["A", None, None, "empty", None, None, None]
    assert mapped(run, f"{table} unmatched '?'") == ["A", "?", None, "empty", None, "?", "?"]
    assert mapped(run, f"{table} where a != 'x' unmatched '?'")[-1] == "x"


def test_unmatched_values_are_counted_with_what_they_are_near_to(run: Run) -> None:
    result = run('map a "good" to "A", "fair" to "B"', EXTRACT)
    assert result.summary.steps[1].remarks == [
        '3 cells hold values that the table does not have, such as "Good", "", "god"; "Good" is near "good",'
        ' "god" is near "good"'
    ]


def test_aside_and_stop(run: Run) -> None:
    result = run('map a "good" to "A", "fair" to "B", "" to null unmatched aside', EXTRACT)
    assert [(row.row, row.reason) for row in result.rows_aside] == [
        (2, '"Good" is not in the table of map'),
        (6, '"god" is not in the table of map'),
    ]
    with pytest.raises(Refusal, match="2 rows fail") as refused:
        run('map a "good" to "A", "fair" to "B", "" to null unmatched stop', EXTRACT)
    assert refused.value.code is ExitCode.ANSWER_IS_NO


@pytest.fixture
def work(tmp_path: Path) -> Path:
    (tmp_path / "e.csv").write_text("kiln,fuel\n007,x\n12,y\n,z\n")
    (tmp_path / "kilns.csv").write_text("kiln;studio;fuel\n007;Clay Works;gas\n012;Quayside;\n")
    return tmp_path


def from_file(work: Path, clauses: str) -> list[Any]:
    (work / "r.mangler").write_text(f"mangler 1\nmap kiln {clauses}\n")
    return list(LinkedRecipe.load(work / "r.mangler").run(work / "e.csv").table.column("kiln").to_pylist())


def test_a_table_from_a_file(work: Path) -> None:
    assert from_file(work, 'from "kilns.csv"') == ["Clay Works", "12", None]
    assert from_file(work, 'from "kilns.csv" kiln, fuel unmatched null') == ["gas", None, None]


@pytest.mark.parametrize(
    ("content", "clauses", "message"),
    [
        ("kiln,s\n007,a\n 007 ,b\n", 'from "k.csv"', 'has " 007 " twice, in lines 2 and 3'),
        ("kiln,s\na,1\nA,2\n", 'from "k.csv" anycase', 'has "A" twice, in lines 2 and 3'),
        ("kiln,s\na,1\nb\n", 'from "k.csv"', "k.csv, line 3: 1 field where the header has 2"),
        ("kiln\na\n", 'from "k.csv"', "has one column"),
        ("kiln,s\na,1\n", 'from "k.csv" kilm, s', 'k.csv has no column "kilm"'),
        ("", 'from "gone.csv"', "gone.csv does not exist"),
    ],
)
def test_files_that_are_no_tables(work: Path, content: str, clauses: str, message: str) -> None:
    (work / "k.csv").write_text(content)
    with pytest.raises(Refusal) as refused:
        from_file(work, clauses)
    assert message in str(refused.value) and "r.mangler, line 2" in str(refused.value)


@pytest.mark.parametrize(
    ("step", "message"),
    [
        ("map a 'x' to 'y', ' x' to 'z'", "is there twice"),
        ("map a 'x' to 'y', 'X' to 'z' anycase", "is there twice"),
        ("map a 'x' to 1", "map puts texts in"),
        ("map a 'x' to 'y' unmatched 1", "map puts texts in"),
        ("map b 'x' to 'y'", 'no column "b"'),
        ("convert a to integer failures null\nmap a '1' to 'y'", 'map works on text, and "a" is integer'),
        ("map a from 'k.csv' x, y, z", "two columns are named"),
        ("map a", "is expected"),
    ],
)
def test_what_is_refused(clean: Callable[..., Any], step: str, message: str) -> None:
    with pytest.raises(Refusal, match=message):
        clean(step, "a\nx\n")


CELLS = st.none() | st.sampled_from(["a", "A", " b", "c", "", "é"])


@given(
    st.lists(CELLS, max_size=8),
    st.dictionaries(st.sampled_from(["a", "b", "", "é"]), st.none() | st.just("!"), min_size=1),
)
def test_mapping_is_that_of_a_dictionary(cells: list[str | None], table: dict[str, str | None]) -> None:
    import numpy as np
    import pyarrow as pa

    from mangler.engine.plan.plan import bind_steps
    from mangler.table.batch import Batch, NoOrigin
    from mangler.table.contract import RowStep
    from mangler.table.schema import Schema

    pairs = ", ".join(
        f"'{key}' to {'null' if value is None else repr(value)}" for key, value in table.items()
    )
    bound = bind_steps(
        LinkedRecipe.parse(f"mangler 1\nmap a {pairs}").parsed.statements, Schema.of_text(["a"])
    )
    for times in (1, 400):  # the second time each distinct value is looked up once
        array = pa.array(cells * times, pa.string())
        step = bound.steps[0].step
        assert isinstance(step, RowStep)
        batch, _ = step.process(Batch((array,), np.arange(len(array)), NoOrigin()))
        expected = [cell if cell is None else table.get(cell.strip(), cell) for cell in cells]
        assert batch.columns[0].to_pylist() == expected * times
