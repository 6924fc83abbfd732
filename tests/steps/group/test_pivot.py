"""Columns that come from the data: `pivot`, and a split into as many columns as it needs; and the steps after them."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.conftest import Refused, Run

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.run.options import RunOptions
from mangler.language.mistake import ExitCode, Refusal
from mangler.table import partitioned_fold as folding

KEY = st.sampled_from([None, "", "a", "b", "é"])
NAME = st.sampled_from(["bowl", "vase", "mug", "Bowl", " "])
ROWS = st.lists(st.tuples(KEY, NAME, st.one_of(st.none(), st.integers(0, 9)), KEY), max_size=25)
MEMORY = st.sampled_from([None, 300, 3000])


def cleaned(path: Path, steps: str, names: str, rows: list[tuple[Any, ...]], **options: Any) -> Any:
    extract = path / "extract.csv"
    lines = [",".join("" if cell is None else f'"{cell}"' for cell in row) for row in rows]
    extract.write_text("\n".join([names, *lines]) + "\n", "utf-8")
    result = LinkedRecipe.parse(f"mangler 1\n{steps}").run(extract, options=RunOptions(**options))
    assert result.summary.balance.is_even and result.summary.balance.read == len(rows)
    return result


def rows_of(result: Any) -> list[tuple[Any, ...]]:
    return list(zip(*(column.to_pylist() for column in result.table.columns), strict=True))


@settings(max_examples=150)
@given(
    rows=ROWS,
    memory=MEMORY,
    block=st.integers(8, 200),
    workers=st.integers(1, 3),
    chunk=st.sampled_from([1, 5, 1000]),
)
def test_rows_become_columns_as_in_python(
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
    rows: list[tuple[Any, ...]],
    memory: int | None,
    block: int,
    workers: int,
    chunk: int,
) -> None:
    monkeypatch.setattr(folding, "CHUNK", chunk)
    names = list(dict.fromkeys(row[1] for row in rows))
    cells: dict[tuple[Any, ...], dict[str, int | None]] = {}
    for k, name, made, other in rows:
        row = cells.setdefault((k, other), {})
        row[name] = (row.get(name) or 0) + made if made is not None else row.get(name)
    steps = "convert made to integer\npivot name into columns of made with sum(made)"
    result = cleaned(
        tmp_path, steps, "k,name,made,o", rows, memory=memory, partition_size=block, workers=workers
    )
    assert result.table.column_names == ["k", "o", *names]
    expected = [(k, o, *(row.get(name) for name in names)) for (k, o), row in cells.items()]
    assert rows_of(result) == expected
    assert result.summary.balance.merged == len(rows) - len(expected)


@settings(max_examples=100)
@given(
    rows=st.lists(
        st.tuples(st.integers(0, 10**6).map(str), KEY, KEY, KEY), max_size=15, unique_by=lambda r: r[0]
    ),
    memory=MEMORY,
    block=st.integers(8, 200),
)
def test_there_and_back_again(
    tmp_path: Path, rows: list[tuple[Any, ...]], memory: int | None, block: int
) -> None:
    steps = "unpivot a, b, c into name, value\npivot name into columns of value"
    result = cleaned(tmp_path, steps, "n,a,b,c", rows, memory=memory, partition_size=block)
    assert rows_of(result) == rows
    assert result.table.column_names == (["n", "a", "b", "c"] if rows else ["n"])


@settings(max_examples=100)
@given(
    cells=st.lists(
        st.one_of(st.none(), st.lists(st.sampled_from(["", "x", "yy", "é"]), max_size=5).map(";".join)),
        max_size=15,
    ),
    memory=MEMORY,
    block=st.integers(8, 100),
    where=st.booleans(),
)
def test_as_many_columns_as_the_data_needs(
    tmp_path: Path, cells: list[str | None], memory: int | None, block: int, where: bool
) -> None:
    rows = [(str(n), cell) for n, cell in enumerate(cells)]
    met = [cell if not where or n != "0" else None for n, cell in rows]
    parts = [(cell or "").rstrip(";").split(";") for cell in met]
    needed = max([1, *map(len, parts)])
    steps = "split c at ';' into columns" + " where n != '0'" * where
    result = cleaned(tmp_path, steps, "n,c", rows, memory=memory, partition_size=block)
    assert result.table.column_names == ["n", "c", *(f"c_{n}" for n in range(1, needed + 1))]
    assert rows_of(result) == [
        (*row, *((own[n] or None) if n < len(own) else None for n in range(needed)))
        for row, own in zip(rows, parts, strict=True)
    ]


def test_name_and_value_cells_become_columns(run: Run) -> None:
    steps = (
        "split pieces at ',' into rows\nsplit pieces at '=' into piece, made in place\nconvert made to integer\n"
        "pivot piece into columns of made\nsort by kiln descending\nmake all = coalesce(bowl, 0) + vase"
    )
    table = run(steps, 'kiln,pieces\n007,"bowl=4, vase=3"\n012,vase=1\n044,\n').table
    assert table.to_pylist() == [
        {"kiln": "044", "bowl": None, "vase": None, "all": None},
        {"kiln": "012", "bowl": None, "vase": 1, "all": 1},
        {"kiln": "007", "bowl": 4, "vase": 3, "all": 7},
    ]


def test_several_open_steps_after_each_other(run: Run) -> None:
    steps = (
        "split g at ';' into columns in place\nunpivot /^g_/ into n, g drop nulls\nkeep columns k, g\n"
        "make one = 1\npivot g into columns of one with count()\ndrop columns ash"
    )
    result = run(steps, "k,g\n007,ash;shino\n012,ash\n007,shino\n")
    assert result.table.to_pylist() == [{"k": "007", "shino": 2}, {"k": "012", "shino": None}]
    assert result.summary.columns == ["k", "shino"]
    assert [step.line for step in result.summary.steps] == [0, 2, 3, 4, 5, 6, 7]


def test_what_they_tell(run: Run) -> None:
    result = run("split g at ';' into columns", "g\na;b;\nc\n")
    line = result.summary.steps[1]
    assert line.remarks == [
        "2 columns here; another extract may need another number: into columns 2 always makes as many"
    ]
    assert line.facts == ["parts per cell: 1 in 1, 3 in 1"]
    (fact,) = run("pivot p into columns of v", "k,p,v\n1,a,x\n1,b,y\n").summary.steps[1].facts
    assert fact.startswith("2 columns come from p here; another extract may have others")
    steps = "pivot p into columns of v with join(v, '')"
    facts = run(steps, "k,p,v\n1,a,x\n1,b,\n").summary.steps[1].facts
    assert facts[1:] == ["join(v, '') skipped 1 null"]


def test_no_rows(run: Run) -> None:
    result = run("pivot p into columns of v\nsort by k\nsplit k at ';' into columns 2", "k,p,v\n")
    assert result.table.column_names == ["k", "k_1", "k_2"] and result.table.num_rows == 0
    assert run("split k at ';' into columns in place", "k,p\n").table.column_names == ["k_1", "p"]


def test_several_values_for_a_cell(run: Run) -> None:
    extract = "k,p,v\n1,a,x\n1,a,y\n2,a,\n2,a,z\n"
    with pytest.raises(Refusal, match="row 1: 2 values for a in one row") as refused:
        run("pivot p into columns of v", extract)
    assert "with sum(…), first(…)" in str(refused.value) and refused.value.code is ExitCode.ANSWER_IS_NO
    table = run("pivot p into columns of v failures null", extract).table
    assert table.to_pylist() == [{"k": "1", "a": None}, {"k": "2", "a": "z"}]
    with pytest.raises(Refusal, match="a value without a name: p is blank"):
        run("pivot p into columns of v", 'k,p,v\n1,,x\n2,"",\n')
    assert run("pivot p into columns of v", 'k,p,v\n1,,\n2,"",\n3,b,y\n').table.to_pydict() == {
        "k": ["1", "2", "3"],
        "b": [None, None, "y"],
    }


def test_names_of_other_types(run: Run) -> None:
    steps = "convert p to integer\npivot p into columns of v"
    assert run(steps, "k,p,v\n1,18,x\n1,019,y\n").table.to_pylist() == [{"k": "1", "18": "x", "19": "y"}]


def test_written_files_have_the_columns_that_came(tmp_path: Path) -> None:
    extract, out = tmp_path / "e.csv", tmp_path / "o.csv"
    extract.write_bytes(b"k;p;v\n1;a;x\n1;b b;y\n")
    LinkedRecipe.parse("mangler 1\npivot p into columns of v").run(extract, out)
    assert out.read_bytes() == b"k;a;b b\n1;x;y\n"
    with pytest.raises(Refusal):
        LinkedRecipe.parse("mangler 1\npivot p into columns of v\ndrop columns c").run(extract, out)
    assert out.read_bytes() == b"k;a;b b\n1;x;y\n"


@pytest.mark.parametrize(
    ("step", "message"),
    [
        ("pivot q into columns of v", 'the extract has no column "q"'),
        ("pivot p into columns of p", "another column has the values"),
        ("pivot p into columns of v with sum(v)", "sum works on numbers, and v is text"),
        ("pivot p into columns of v with v", 'a group may have several values of "v"'),
        ("pivot p into columns of v\ndrop columns c", 'the extract has no column "c"'),
        ("pivot p into columns of v\nconvert a to integer", '"x" is not an integer'),
        ("pivot p into columns of v\nconvert k to integer failures aside", "cannot be set aside after pivot"),
        ("rename k to a\npivot p into columns of v", '"a" is a value of "p" and would be a column'),
        ("make l = split(p, ';')\npivot l into columns of v", '"l" is a list'),
        ("split p at ';' into columns too few aside", "as many columns as the parts need"),
        ("split p at ';' into columns named 'x'", "all these columns would have one name"),
        ("rename k to p_1\nsplit p at ';' into columns", 'there is a column "p_1" already'),
        ("split p at ';' into columns\nmake l = list", 'the extract has no column "list"'),
        ("split p at '' into columns", "the empty text is between all characters"),
    ],
)
def test_mistakes(refused: Refused, step: str, message: str) -> None:
    refused(step, "k,p,v\n1,a,x\n", message)


def test_so_many_columns_are_refused(run: Run) -> None:
    extract = "k,p,v\n" + "".join(f"1,n{n},x\n" for n in range(10_001))
    with pytest.raises(Refusal, match="more than 10,000 different values"):
        run("pivot p into columns of v", extract)
    with pytest.raises(Refusal, match="row 2 has 10,001 parts"):
        run("split p at ' ' into columns", "p\na\n" + "x " * 10_001 + "\n")
