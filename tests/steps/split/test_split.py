"""`split` as a recipe says it: what happens to parts, of rows, and of what does not fit."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.conftest import Run

from mangler.engine.run.in_memory_run import run_in_memory
from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.language.mistake import ExitCode, Refusal
from mangler.language.tables import Head, SmallTable

EXTRACT = "kiln;pieces\n007;bowl=4, vase-3, mug=, plate\n012;\n031;mug=1\n"


def small(steps: str, cells: list[str | None]) -> Any:
    table = SmallTable((Head("a"), Head("b")), tuple((cell, str(n)) for n, cell in enumerate(cells)))
    return run_in_memory(LinkedRecipe.parse(f"mangler 1\n{steps}").parsed.statements, table)


CELLS = st.lists(
    st.lists(st.sampled_from(["", "x", " y", "é", "z z"]), min_size=1, max_size=5).map(";".join), max_size=8
)


@settings(max_examples=100)
@given(CELLS)
def test_split_then_join_gives_the_cell_back(cells: list[str]) -> None:
    """Where nothing is trimmed or dropped; a blank cell has no parts to give back."""
    steps = 'split a at ";" into columns 5 untrimmed absent ""\njoin /^a_/ with ";" into again in place'
    again = [row[1] for row in small(steps, list(cells)).rows]
    assert again == [cell if cell.strip() else None for cell in cells]


@settings(max_examples=100)
@given(CELLS)
def test_every_part_is_a_row(cells: list[str]) -> None:
    parts = [(part.strip() or None, str(n)) for n, cell in enumerate(cells) for part in cell.split(";")]
    blank = {str(n) for n, cell in enumerate(cells) if not cell.strip()}
    result = small('split a at ";" into rows keep empty', list(cells))
    assert list(result.rows) == [(None, row) if row in blank else (part, row) for part, row in parts]


def test_pairs_into_rows_and_columns(run: Run) -> None:
    result = run(
        'split pieces at "," into rows numbered as n\n'
        'split pieces at "=", "-" into piece, made in place absent "not counted" too few "no mark"',
        EXTRACT,
    )
    assert result.table.to_pylist() == [
        {"kiln": "007", "piece": "bowl", "made": "4", "n": 1},
        {"kiln": "007", "piece": "vase", "made": "3", "n": 2},
        {"kiln": "007", "piece": "mug", "made": "not counted", "n": 3},
        {"kiln": "007", "piece": "plate", "made": "no mark", "n": 4},
        {"kiln": "012", "piece": None, "made": None, "n": None},
        {"kiln": "031", "piece": "mug", "made": "1", "n": 1},
    ]
    balance = result.summary.balance
    assert (balance.read, balance.added, balance.delivered) == (3, 3, 6)
    assert result.summary.steps[1].facts == ["parts per cell: 1 in 1, 4 in 1", "1 blank cell"]
    said = '1 row has fewer parts than names without ?; "no mark" replaces what is missing'
    assert result.summary.steps[2].facts[-1] == said and not result.summary.steps[2].remarks
    silent = run('split pieces at ", " into one, two too many cut', EXTRACT).summary.steps[1]
    assert silent.remarks == ["1 row has fewer parts than names without ?; null replaces what is missing"]


def test_too_many_parts_stop_the_run_and_are_shown(run: Run) -> None:
    with pytest.raises(Refusal) as refused:
        run('split pieces at "," into one, two', EXTRACT)
    assert refused.value.code is ExitCode.ANSWER_IS_NO
    (mistake,) = refused.value.mistakes
    assert "1 row fails in this step" in mistake.message
    assert "row 1, line 2: 4 parts for 2 names: bowl=4 | vase-3 | mug= | plate" in mistake.advice
    assert "too many unsplit, cut or aside" in mistake.advice


@pytest.mark.parametrize(
    ("policy", "two", "said"),
    [
        ("unsplit", ["vase-3, mug=, plate", None, None], "together in two"),
        ("cut", ["vase-3", None, None], "left out"),
    ],
)
def test_parts_left_over(run: Run, policy: str, two: list[str | None], said: str) -> None:
    result = run(f'split pieces at "," into one, two too many {policy}', EXTRACT)
    assert result.table.column("two").to_pylist() == two
    assert result.summary.steps[1].facts[-1] == f"parts left over in 1 row, {said}"


def test_the_rest_keeps_its_quotes_and_with_untrimmed_its_blanks() -> None:
    cell = 'x;"b;b" ;"c"; '
    assert small('split a at ";" into c, d quoted too many unsplit', [cell]).rows[0][2] == '"b;b" ;"c";'
    assert small('split a at ";" into c, d untrimmed too many unsplit', ["x; y;z "]).rows[0][2] == " y;z "


def test_rows_set_aside_for_too_many_and_for_too_few(run: Run) -> None:
    result = run('split pieces at "," into one, two, three too few aside too many aside', EXTRACT)
    assert [(row.row, row.reason) for row in result.rows_aside] == [
        (1, "4 parts for 3 names: bowl=4 | vase-3 | mug= | plate"),
        (3, "1 part for 3 names: mug=1"),
    ]
    assert result.table.column("kiln").to_pylist() == ["012"]  # a blank cell never fails


def test_an_extract_row_is_set_aside_whole_after_it_became_several(run: Run) -> None:
    steps = 'split pieces at "," into rows\nset aside rows where pieces = "mug=" because "not counted"'
    result = run(steps, EXTRACT)
    assert [row.as_read.decode() for row in result.rows_aside] == ["007;bowl=4, vase-3, mug=, plate"]
    assert result.table.column("kiln").to_pylist() == ["012", "031"]
    assert result.summary.balance.withdrawn == 4 and result.summary.balance.is_even


def test_where_new_columns_stand() -> None:
    names = small('split a at ";" into c, d', ["x;y"]).names
    assert names == ("a", "c", "d", "b")
    assert small('split a at ";" into c, a in place', ["x;y"]).names == ("c", "a", "b")
    assert small('split a at ";" into rows as p numbered as n', ["x;y"]).names == ("a", "p", "n", "b")
    assert small('split a at ";" into rows as p in place', ["x;y"]).names == ("p", "b")
    assert small('split a at ";" into columns 2 named "{n}. {column}"', ["x;y"]).names == (
        "a",
        "1. a",
        "2. a",
        "b",
    )


def test_white_space_as_delimiter_drops_empty_parts_unless_reported_otherwise() -> None:
    cell = " Pim   Verhoe "
    assert small('split a at " " into c, d', [cell]).rows[0][1:3] == ("Pim", "Verhoe")
    assert small("split a at /\\s+/ into c, d", [cell]).rows[0][1:3] == ("Pim", "Verhoe")
    assert small('split a at first " " into c, d', [cell]).rows[0][1:3] == ("Pim", "Verhoe")
    assert small('split a at last " " into c, d', [cell]).rows[0][1:3] == ("Pim", "Verhoe")
    kept = small('split a at " " into columns 6 keep empty', [cell]).rows[0][1:7]
    assert kept == (None, "Pim", None, None, "Verhoe", None)


def test_near_misses_are_reported(run: Run) -> None:
    said = run(
        'split pieces at "VASE", " ; " into rows', EXTRACT + "044;vase;mug\n".replace(";mug", " ;mug")
    ).summary
    assert any("in another letter case" in remark for remark in said.steps[1].remarks)
    said = run('split kiln at "; " into rows', 'kiln\n"a;b"\n').summary
    assert said.steps[1].remarks == [
        "no cell holds a delimiter: each has one part",
        '1 cell left that would match except for white space, such as "a;b"; trim … squeeze before this step',
    ]


def test_many_distinct_and_few_distinct_cells_go_the_same_way() -> None:
    few = [f"a;{n % 3};" for n in range(3000)]
    many = [f"{n};{n * 7}" for n in range(3000)]
    for cells in (few, many, [*few, *many]):
        rows = small('split a at ";" into c, d', list(cells)).rows
        assert [row[1:3] for row in rows] == [tuple(cell.split(";")[:2]) for cell in cells]
        rows = small('split a at ";" into rows', list(cells)).rows
        assert [row[0] for row in rows] == [part for cell in cells for part in cell.split(";") if part]


@pytest.mark.parametrize(
    ("step", "message"),
    [
        ('split a at "" into c', "the empty text is between all characters"),
        ("split a at /x?/ into c", "matches the empty text"),
        ('split a at ";" into b, c', 'there is a column "b" already'),
        ('split a at ";" into a, c', 'there is a column "a" already'),
        ('split a at ";" into c, c', '"c" is the name of two new columns'),
        ('split a at ";" into rows too many cut', "too many is said of a split into columns"),
        ('split a at ";" into rows in place', "in place is said of a split into columns"),
        ('split a at ";" into c, d numbered as n', "numbered as is said of a split into rows"),
        ('split a at ";" into c, d named "{n}"', "named names numbered columns"),
        ("split a at last 2 into c, d", "last is said of delimiters"),
        ("split a at 2, ';' into c, d", "a position is expected here, found a text"),
        ("split a at 0 into c, d", "nothing is before position 0"),
        ('split a at ";" into columns 0', "a cell cannot be split into 0 columns"),
        ('split a at ";" into columns 2 named "x"', "all these columns would have one name"),
        ('split a at ";" into columns 2 named "{b}_{n}"', "{b} is nothing that the name"),
        ('split a at ";" into c?', "the only name takes every part"),
        ('split a at ";" into c /x/, d', "a pattern says which parts an optional name takes"),
        ('split a at ";" into c, d absent 0', "split puts texts in, and 0 is none"),
        ('split a at ";" into c, d too few 1', "split puts texts in, and 1 is none"),
        ('split a at ";" into c, d in place where b = "x"', "in place and where exclude each other"),
        ('split x at ";" into c', 'the extract has no column "x"'),
        ('make n = 1\nsplit n at ";" into c', 'split works on text, and "n" is integer'),
        ('make n = split(a, ";")\nsplit n at ";" into c', 'joined(n, "; ")'),
    ],
)
def test_mistakes(run: Run, step: str, message: str) -> None:
    with pytest.raises(Refusal) as refused:
        run(step, "a,b\nx;y,z\n")
    assert message in str(refused.value), str(refused.value)


def test_rows_that_would_be_too_large_together_are_refused(run: Run) -> None:
    extract = "a,b\n" + "x;" * 30_000 + "," + "y" * 100_000 + "\n"
    with pytest.raises(Refusal, match=r"would take 3\.0 GB"):
        run('split a at ";" into rows', extract)
