"""`lookup` against plain Python, and what it tells."""

from __future__ import annotations

from collections import defaultdict
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mangler.engine.run.linked_recipe import LinkedRecipe, Result
from mangler.engine.run.options import RunOptions
from mangler.language.mistake import ExitCode, Refusal

CELL = st.sampled_from([None, "", "a", "A", "b", " b", "é", "É", "07", "7"])
PAIRS = st.lists(st.tuples(CELL, CELL), max_size=12)


def table(names: str, rows: Any) -> str:
    lines = [",".join("" if cell is None else f'"{cell}"' for cell in row) for row in rows]
    return "\n".join([names, *lines]) + "\n"


def looked_up(folder: Path, steps: str, rows: str, reference: str, **options: Any) -> Result:
    (folder / "extract.csv").write_text(rows, "utf-8")
    (folder / "r.csv").write_text(reference, "utf-8")
    (folder / "x.mangler").write_text(f"mangler 1\n{steps}\n", "utf-8")
    return LinkedRecipe.load(folder / "x.mangler").run(folder / "extract.csv", options=RunOptions(**options))


@settings(max_examples=200)
@given(
    rows=PAIRS,
    reference=PAIRS,
    keys=st.sampled_from([1, 2]),
    several=st.sampled_from(["first", "all"]),
    anycase=st.booleans(),
    where=st.booleans(),
    unmatched=st.sampled_from(["null", "aside"]),
    block=st.integers(8, 100),
    workers=st.integers(1, 3),
)
def test_rows_come_with_what_python_finds_for_them(
    tmp_path: Path,
    rows: list[tuple[Any, ...]],
    reference: list[tuple[Any, ...]],
    keys: int,
    several: str,
    anycase: bool,
    where: bool,
    unmatched: str,
    block: int,
    workers: int,
) -> None:
    def key(row: tuple[Any, ...]) -> tuple[Any, ...]:
        cells = row[:keys]
        return tuple(cell and cell.upper().lower() for cell in cells) if anycase else cells

    found = defaultdict(list)
    for n, row in enumerate(reference):
        found[key(row)].append(str(n))
    expected: list[tuple[Any, ...]] = []
    aside = []
    for n, row in enumerate(rows, 1):
        met = not where or (row[1] is not None and row[1] != "b")
        matches = found[key(row)] if met and None not in key(row) else []
        if met and not matches and None not in key(row) and unmatched == "aside":
            aside.append(n)
            continue
        expected += [(*row, number) for number in (matches[:1] if several == "first" else matches) or [None]]
    on = "a = p" + ", b = q" * (keys == 2)
    clauses = " anycase" * anycase + " where b != 'b'" * where
    steps = f'lookup "r.csv" on {on} bring n as number several {several} unmatched {unmatched}{clauses}'
    steps += "\nreorder columns a, b, *"
    numbered = [(*row, str(n)) for n, row in enumerate(reference)]
    result = looked_up(
        tmp_path, steps, table("a,b", rows), table("p,q,n", numbered), partition_size=block, workers=workers
    )
    columns = [column.to_pylist() for column in result.table.columns]
    assert list(zip(*columns, strict=True)) == expected
    assert [row.row for row in result.rows_aside] == aside
    assert result.summary.balance.is_even
    assert result.summary.balance.added == len(expected) + len(aside) - len(rows)


KILNS = "kiln,fuel\n007,wood\n012,gas\n,none\n"


def test_new_columns_are_after_the_key(tmp_path: Path) -> None:
    result = looked_up(tmp_path, 'lookup "r.csv" on kiln bring fuel as f', "n,kiln,m\n1,012,x\n", KILNS)
    assert result.table.to_pydict() == {"n": ["1"], "kiln": ["012"], "f": ["gas"], "m": ["x"]}


def test_a_list_of_exclusions(tmp_path: Path) -> None:
    rows = "kiln\n007\n900\n\n012\n"
    result = looked_up(tmp_path, "read nulls ''\nlookup 'r.csv' on kiln matched drop", rows, KILNS)
    assert result.table.column("kiln").to_pylist() == ["900", None]
    assert result.summary.balance.dropped == 2
    assert result.summary.steps[1].remarks == []
    (remark,) = (
        looked_up(tmp_path, "lookup 'r.csv' on kiln matched drop", "kiln\n7\n900\n", KILNS)
        .summary.steps[1]
        .remarks
    )
    assert remark == 'not in r.csv, and nearly so: "7" (near "007": zeros in front)'
    aside = looked_up(tmp_path, "lookup 'r.csv' on kiln matched aside", rows, KILNS)
    assert [row.reason for row in aside.rows_aside] == ["r.csv has 007 in line 2", "r.csv has 012 in line 3"]


def test_a_check(tmp_path: Path) -> None:
    with pytest.raises(Refusal, match=r"row 2, line 3: r\.csv has no row for 7") as refused:
        looked_up(tmp_path, "lookup 'r.csv' on kiln", "kiln,n\n007,1\n7,2\n,3\n", KILNS)
    assert refused.value.code is ExitCode.ANSWER_IS_NO
    said = looked_up(tmp_path, "lookup 'r.csv' on kiln unmatched null", "kiln,n\n007,1\n7,2\n,3\n", KILNS)
    line = said.summary.steps[1]
    assert line.remarks == [
        '1 row has a key that r.csv does not have, such as "7" (near "007": zeros in front)'
    ]
    assert line.facts == ["1 row has no key, and matches nothing"]
    assert said.table.num_rows == 3 and not line.tally.changed_anything


@pytest.mark.parametrize(
    ("key", "near"),
    [("K7", ' (near "k7": letter case)'), (" k7", ' (near "k7": white space)'), ("zz", "")],
)
def test_near_misses(tmp_path: Path, key: str, near: str) -> None:
    result = looked_up(tmp_path, 'lookup "r.csv" on k bring v', f'k\n"{key}"\n', "k,v\nk7,x\n0,y\n")
    assert result.summary.steps[1].remarks == [
        f'1 row has a key that r.csv does not have, such as "{key}"{near}'
    ]


def test_near_misses_of_several_columns(tmp_path: Path) -> None:
    reference = "kiln,studio\n007,Clay Works\n007,Quayside\n"
    for rows, near in (("007,Clay\u00a0Works", "white space"), ("7,Clay Works", "zeros in front")):
        step = 'lookup "r.csv" on kiln, studio unmatched null'
        (remark,) = looked_up(tmp_path, step, f"kiln,studio\n{rows}\n", reference).summary.steps[1].remarks
        assert remark.endswith(f'(near "007 / Clay Works": {near})')


def test_several_matches(tmp_path: Path) -> None:
    reference = "kiln,fuel\n007,wood\n012,gas\n007,oil\n"
    with pytest.raises(Refusal, match=r"r\.csv has 007 in 2 rows, lines 2, 4"):
        looked_up(tmp_path, 'lookup "r.csv" on kiln bring fuel', "kiln\n007\n", reference)
    every = looked_up(
        tmp_path, 'lookup "r.csv" on kiln bring fuel several all', "kiln\n007\n9\n012\n", reference
    )
    assert every.table.column("fuel").to_pylist() == ["wood", "oil", None, "gas"]
    assert every.summary.steps[1].facts == ["1 row matches several rows of r.csv"]
    # Where nothing is brought it does not matter how often a key is there.
    assert looked_up(tmp_path, 'lookup "r.csv" on kiln', "kiln\n007\n", reference).table.num_rows == 1


def test_a_key_of_another_type(tmp_path: Path) -> None:
    steps = 'convert kiln to integer\nlookup "r.csv" on kiln bring fuel'
    result = looked_up(tmp_path, steps, "kiln\n7\n12\n", "kiln,fuel\n007,wood\n 12 ,gas\nx,oil\n")
    assert result.table.column("fuel").to_pylist() == ["wood", "gas"]
    assert result.summary.steps[2].remarks == [
        "r.csv: 1 value of the key cannot be read as the type of the extract's column"
    ]


def test_bad_rows_of_the_file_are_reported(tmp_path: Path) -> None:
    result = looked_up(
        tmp_path, 'lookup "r.csv" on kiln bring fuel', "kiln\n007\n", "kiln,fuel\n007,wood\n1,2,3\n"
    )
    (remark,) = result.summary.steps[1].remarks
    assert remark.startswith("r.csv: 1 row of it does not fit in the table, and is skipped: line 3: ")


def test_the_file_is_read_anew_when_it_changes(tmp_path: Path) -> None:
    step = 'lookup "r.csv" on kiln bring fuel'
    for fuel in ("wood", "electric"):
        result = looked_up(tmp_path, step, "kiln\n007\n", f"kiln,fuel\n007,{fuel}\n")
        assert result.table.column("fuel").to_pylist() == [fuel]
    (tmp_path / "r.csv").unlink()
    with pytest.raises(Refusal) as refused:
        LinkedRecipe.load(tmp_path / "x.mangler").run(tmp_path / "extract.csv")
    assert refused.value.code is ExitCode.FILE_TROUBLE


def test_no_rows_on_either_side(tmp_path: Path) -> None:
    step = 'lookup "r.csv" on a = kiln bring fuel several all'
    assert looked_up(tmp_path, step, "a,b\n", KILNS).table.num_rows == 0
    assert looked_up(tmp_path, step, "a,b\nx,y\n", "kiln,fuel\n").table.to_pylist() == [
        {"a": "x", "fuel": None, "b": "y"}
    ]


@pytest.mark.parametrize(
    ("step", "message"),
    [
        ("lookup 'r.csv' on kilm bring fuel", 'the extract has no column "kilm"'),
        ("lookup 'r.csv' on n = kilm bring fuel", 'r.csv has no column "kilm"'),
        ("lookup 'r.csv' on kiln bring fule", "Nearest: fuel"),
        ("lookup 'r.csv' on kiln bring fuel as n", 'there is a column "n" already'),
        ("lookup 'r.csv' on kiln bring fuel, fuel", '"fuel" is brought twice'),
        (
            "lookup 'r.csv' on kiln bring fuel matched drop",
            "takes the rows away that something is brought to",
        ),
        ("lookup 'r.csv' on kiln several all", "nothing is brought"),
        ("lookup 'q.csv' on kiln bring fuel", "q.csv"),
        ("lookup kilns on kiln", "a text is expected"),
        ("lookup 'r.csv' bring fuel", "on is expected"),
        (
            "make l = split(kiln, '0')\nlookup 'r.csv' on l = kiln",
            '"l" is a list, and lists are not compared',
        ),
        ("sort by n\nlookup 'r.csv' on kiln unmatched aside", "cannot be set aside after sort"),
    ],
)
def test_mistakes(tmp_path: Path, step: str, message: str) -> None:
    with pytest.raises(Refusal) as refused:
        looked_up(tmp_path, step, "kiln,n\n007,1\n", KILNS)
    assert message in str(refused.value), str(refused.value)


def test_words_for_null_reach_the_file(tmp_path: Path) -> None:
    """Those of read, or the step's own; a null in the file's key matches nothing."""
    (tmp_path / "kilns.csv").write_text("kiln,fuel\n007,gas\nn/a,coal\n012,-\n")
    (tmp_path / "e.csv").write_text("kiln\n007\nn/a\n012\n")

    def fuels(recipe: str) -> list[str | None]:
        table = (
            LinkedRecipe.parse(f"mangler 1\n{recipe}", str(tmp_path / "r.mangler"))
            .run(tmp_path / "e.csv")
            .table
        )
        return table["fuel"].to_pylist()

    lookup = 'lookup "kilns.csv" on kiln bring fuel'
    assert fuels(lookup) == ["gas", "coal", "-"]
    assert fuels(f'read nulls "n/a", "-"\n{lookup}') == ["gas", None, None]
    assert fuels(f'read nulls "n/a"\n{lookup} nulls "gas"') == [None, None, "-"]
    mapped = 'map kiln from "kilns.csv" nulls "-"\nrename kiln to fuel'
    assert fuels(mapped) == ["gas", "coal", None]


def test_nulls_without_a_file_say_nothing() -> None:
    with pytest.raises(Refusal, match="this map has its table here"):
        LinkedRecipe.parse('mangler 1\nmap a "x" to "y" nulls "-"')
