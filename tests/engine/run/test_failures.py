"""Rows whose value cannot be made, and what happens to them."""

from __future__ import annotations

from pathlib import Path

import pytest
from tests.conftest import Run

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.run.options import RunOptions
from mangler.language.mistake import ExitCode, Refusal

EXTRACT = "kiln,n,result\n007,2,good\n012,0,\n031,x,good\n044,,cracked\n007,4,n/a\n"


def column(run: Run, steps: str, name: str) -> list[object]:
    return list(run(steps, EXTRACT).table.column(name).to_pylist())


def test_stop_reads_to_the_end_and_says_of_every_step(run: Run) -> None:
    steps = "make a = integer(n)\nmake b = 8 % a\nmake c = date(result) where result is not null"
    for block in (1 << 20, 8):
        with pytest.raises(Refusal) as refused:
            run(steps, EXTRACT, partition_size=block)
        assert refused.value.code is ExitCode.ANSWER_IS_NO
        first, second, third = refused.value.mistakes
        assert "1 row fails in this step" in first.message and first.span and first.span.line == 2
        assert 'row 3, line 4: "x" is not an integer' in first.advice
        assert "row 2, line 3: division by zero" in second.advice
        assert "3 rows fail" in third.message and 'row 1, line 2: "good" is not a date' in third.advice


def test_null_value_and_keep(run: Run) -> None:
    assert column(run, "make a = integer(n) failures null", "a") == [2, 0, None, None, 4]
    assert column(run, "make a = integer(n) failures -1", "a") == [2, 0, -1, None, 4]
    assert column(run, "change n to text(integer(n) * 2) failures keep", "n") == ["4", "0", "x", None, "8"]
    result = run("make a = integer(n) failures null", EXTRACT)
    assert result.summary.steps[1].remarks == ["1 cell became null because the value could not be made"]


def test_aside_takes_the_row_as_it_was_read_once(run: Run) -> None:
    steps = "make a = integer(n) failures aside\nmake b = 8 % a failures aside\n"
    steps += 'set aside rows where b = 0 because "even"'
    result = run(steps, EXTRACT)
    assert result.table.column("kiln").to_pylist() == ["044"]
    said = [(row.row, row.line, row.step, row.reason, row.as_read) for row in result.rows_aside]
    assert said == [
        (1, 2, "4", "even", b"007,2,good"),
        (2, 3, "3", "division by zero", b"012,0,"),
        (3, 4, "2", '"x" is not an integer', b"031,x,good"),
        (5, 6, "4", "even", b"007,4,n/a"),
    ]
    balance = result.summary.balance
    assert (balance.read, balance.delivered, balance.withdrawn, balance.set_aside) == (5, 1, 4, 4)


def test_a_fixed_aside_file_runs_with_the_same_recipe(tmp_path: Path) -> None:
    extract, aside = tmp_path / "a.csv", tmp_path / "a.aside.csv"
    extract.write_text(EXTRACT)
    recipe = LinkedRecipe.parse("mangler 1\nmake a = 8 % integer(n) failures aside")
    recipe.run(extract, to=tmp_path / "out.csv", aside=aside)
    text = aside.read_text()
    assert text.splitlines()[0] == "_file,_row,_step,_reason,kiln,n,result"
    assert f'{extract},3,2,"""x"" is not an integer",031,x,good' in text
    aside.write_text(text.replace(",x,", ",3,").replace("012,0,", "012,3,"))
    fixed = recipe.run(aside)
    assert fixed.table.column("a").to_pylist() == [2, 2] and not fixed.rows_aside


def test_where_null_is_not_met_and_counted_apart(run: Run) -> None:
    result = run('keep rows where result = "good"', EXTRACT)
    tally = result.summary.steps[1].tally
    assert (tally.counts["rows_met"], tally.counts["rows_false"], tally.counts["rows_null"]) == (2, 2, 1)
    assert result.summary.steps[1].remarks == [
        "1 row went because the condition is null there, and not false"
    ]
    assert run('drop rows where result = "good"', EXTRACT).table.num_rows == 3


def test_conditions_that_cannot_be_known(run: Run) -> None:
    with pytest.raises(Refusal, match="division by zero"):
        run("keep rows where 1 % length(result) = 0 and 1 % (integer(kiln) - 12) = 0", EXTRACT)
    assert run("keep rows where 8 % integer(n) = 0 failures null", EXTRACT).table.num_rows == 2
    assert len(run("keep rows where 8 % integer(n) = 0 failures aside", EXTRACT).rows_aside) == 2
    with pytest.raises(Refusal, match='"x" is not an integer'):
        run("trim kiln where integer(n) = 2", EXTRACT)


def test_rows_left_out_by_where_never_fail(run: Run) -> None:
    assert column(run, "make a = 8 % integer(n) where n is integer and n != '0'", "a") == [
        0,
        None,
        None,
        None,
        0,
    ]
    assert column(run, "change n to text(8 % integer(n)) where n in ('2', '4')", "n") == [
        "0",
        "0",
        "x",
        None,
        "0",
    ]


@pytest.mark.parametrize(
    ("steps", "message"),
    [
        ("make n = integer(n) where kiln = '007'", "leaves other rows"),
        ("change n to integer(cell) where kiln = '007'", "where would leave cells that are text"),
        ("change n to integer(cell) failures keep", "failures would leave cells that are text"),
        ("make a = integer(n) failures 'none'", "'none' is text, and the column is integer"),
        ("fill n with 0", '"n" is text, and 0 is integer'),
        ("fill n with length(kiln)", '"n" is text, and length'),
        ("make a = 1, a = 2", "made twice"),
        ("make a = 1 after nowhere", 'no column "nowhere"'),
        ("number rows as kiln", "already"),
        ("make a = split(kiln, ';')", "is a list"),
        ("parameter kiln = 1\nmake a = kiln", "a parameter and a column"),
    ],
)
def test_what_is_refused(tmp_path: Path, steps: str, message: str) -> None:
    extract = tmp_path / "x.csv"
    extract.write_text(EXTRACT)
    with pytest.raises(Refusal, match=message):
        LinkedRecipe.parse(f"mangler 1\n{steps}").run(extract, to=tmp_path / "out.csv", options=RunOptions())


def test_typed_columns_are_written_in_their_shortest_form(tmp_path: Path) -> None:
    extract = tmp_path / "a.csv"
    extract.write_text("d,t,n\n2026-05-04,2026-05-04 09:30,7\n,,\n")
    steps = "make a = date(d), b = timestamp(t), c = integer(n) / 2, e = integer(n) > 5, f = decimal(n) * 1.50, g = 0.0"
    LinkedRecipe.parse(f"mangler 1\n{steps}\ndrop columns d, t, n").run(extract, to=tmp_path / "o.csv")
    assert (tmp_path / "o.csv").read_text() == (
        "a,b,c,e,f,g\n2026-05-04,2026-05-04T09:30:00,3.5,true,10.5,0.0\n,,,,,0.0\n"
    )


def test_typed_columns_pass_other_steps(run: Run) -> None:
    steps = "make a = integer(n) failures null\nfill a down\ntrim * squeeze\n"
    steps += "fill numeric columns with 0\nrecase * upper"
    result = run(steps, EXTRACT)
    assert result.table.column("a").to_pylist() == [2, 0, 0, 0, 4]
    assert any("skipped, being no text: a" in remark for remark in result.summary.steps[3].remarks)


def test_what_a_wrong_step_would_have_made_is_not_missed_again(run: Run) -> None:
    steps = (
        "make x = kiln + 1\ntrim x\nrename nowhere to y\nkeep rows where y = 'a' and nowhere = 'b'\ntrim z"
    )
    with pytest.raises(Refusal) as refused:
        run(steps, EXTRACT)
    messages = [mistake.message for mistake in refused.value.mistakes]
    assert len(messages) == 3 and messages[0].startswith("+ adds numbers")
    assert messages[1:] == ['the extract has no column "nowhere"', 'the extract has no column "z"']
