"""What rows must be like, and what happens to the others."""

from __future__ import annotations

import pytest

from mangler.language.mistake import Refusal

ROWS = "kiln;peak\n007;1222\n012;\n007;998\n031;tbc\n"


def warnings(run, steps: str, extract: str = ROWS, **options) -> list[str]:
    return run(steps, extract, **options).summary.warnings


def test_a_row_that_is_not_so_stops_the_run_with_its_reason(refused) -> None:
    refused('require that peak != "998"', ROWS, 'row 3, line 4: peak != "998" is not so')
    refused('require that peak != "998"', ROWS, 'row 2, line 3: peak != "998" is null')
    refused('require that peak != "998" because "too cold"', ROWS, "row 3, line 4: too cold")
    refused("require no nulls in *", ROWS, "row 2, line 3: peak is null")
    refused('require only "007", "012" in kiln', ROWS, 'row 4, line 5: kiln is "031"')
    refused("require one row per kiln", ROWS, "row 3, line 4: kiln 007 is that of row 1 too")
    refused("require that peak is integer", ROWS, "say what happens to them: failures aside or failures warn")


def test_set_aside_it_is_withdrawn_whole(run) -> None:
    result = run("require that peak is integer failures aside", ROWS)
    assert result.table.to_pydict() == {"kiln": ["007", "007"], "peak": ["1222", "998"]}
    assert [row.reason for row in result.rows_aside] == ["peak is integer is not so"] * 2
    split = 'split kiln at "1" into rows\nrequire that kiln != "2" failures aside'
    assert [row.row for row in run(split, ROWS).rows_aside] == [2]


def test_a_warning_lets_it_pass(run) -> None:
    result = run("require no nulls in peak failures warn", ROWS)
    assert result.table.num_rows == 4
    assert result.summary.warnings == ["line 2: 1 row is not as required: row 2: peak is null"]
    [warning] = warnings(run, "require one row per kiln failures warn because 'once a week'")
    assert warning == "line 2: 1 row is not as required: row 3: once a week"
    assert warnings(run, "require no nulls in kiln failures warn") == []


def test_a_condition_that_cannot_be_known_is_not_met(run, refused) -> None:
    steps = "require that 1 / (integer(peak) - 998) < 1"
    refused(steps, "peak\n998\n", "division by zero")
    assert len(warnings(run, f"{steps} failures warn", "peak\n998\n12\nx\n")) == 1


def test_null_passes_where_values_are_required_and_blanks_around_do_not_count(run) -> None:
    result = run('require only "a", /b+/ in x', "x;y\n a ;1\n;2\nbbb;3\n")
    assert result.table.num_rows == 3
    assert run('require only "A" in x anycase', "x;y\na;1\n").table.num_rows == 1


def test_one_row_per_key_of_several_columns_with_null_like_null(run) -> None:
    extract = "a;b\n1;\n;1\n1;\n1;2\n;1\n"
    result = run("require one row per a, b failures aside", extract)
    assert [(row.row, row.reason) for row in result.rows_aside] == [
        (3, "a 1, b null is that of row 1 too"),
        (5, "a null, b 1 is that of row 2 too"),
    ]
    assert len(warnings(run, "require one row per a anycase failures warn", "a;b\nx;1\nX;2\n")) == 1


def test_how_many_rows_there_must_be(run, refused) -> None:
    assert run("require between 4 and 4 rows", ROWS).table.num_rows == 4
    refused("require between 5 and 9 rows", ROWS, "4 rows come to this step, and 5 to 9 are required")
    refused("drop rows where true\nrequire between 1 and 9 rows because 'never empty'", ROWS, "never empty")
    assert warnings(run, "require between 5 and 9 rows failures warn") == [
        "line 2: 4 rows come to this step, and 5 to 9 are required"
    ]
    assert run("require between 5 and 9 rows", ROWS, rows=2).table.num_rows == 2


def test_after_all_rows_were_gathered_rows_can_stop_the_run_and_not_be_set_aside(run, refused) -> None:
    refused("sort by kiln\nrequire no nulls in peak", ROWS, "row 2: peak is null")
    refused(
        "sort by kiln\nrequire no nulls in peak failures aside", ROWS, "rows cannot be set aside after sort"
    )
    assert run("sort by kiln\nrequire between 4 and 4 rows", ROWS).table.num_rows == 4


@pytest.mark.parametrize(
    ("amount", "passes"),
    [("2 rows", True), ("1 row", False), ("50%", True), ("49.9 %", False), ("0 rows", False)],
)
def test_no_more_rows_set_aside_than_are_tolerated(run, amount: str, passes: bool) -> None:
    steps = f"require that peak is integer failures aside\ntolerate {amount}"
    if passes:
        assert run(steps, ROWS).summary.balance.set_aside == 2
        return
    with pytest.raises(Refusal) as refusal:
        run(steps, ROWS)
    assert "2 rows of 4 would be set aside" in str(refusal.value)
    assert "row 2, line 3: peak is integer is not so" in str(refusal.value)


def test_rows_that_do_not_fit_the_table_count_as_set_aside(refused) -> None:
    refused("tolerate 0 rows", "a;b\n1;2;3\n1;2\n", "1 row of 2 would be set aside, and 0 rows are tolerated")


def test_strict_allows_no_row_aside_and_no_warning(run) -> None:
    assert run("trim *", ROWS, strict=True).table.num_rows == 4
    with pytest.raises(Refusal, match="2 rows would be set aside, which --strict does not allow"):
        run("require that peak is integer failures aside", ROWS, strict=True)
    with pytest.raises(Refusal, match="1 warning, which --strict does not allow"):
        run("require no nulls in peak failures warn", ROWS, strict=True)


@pytest.mark.parametrize(
    ("steps", "message"),
    [
        ("require that peak", "a condition is needed here"),
        ("require between 9 and 5 rows", "between 9 and 5 there is not a number"),
        ("tolerate 5", "rows or % is expected here"),
        ("tolerate 0.5 rows", "a part of a row cannot be"),
        ("tolerate 101%", "more than all rows cannot be"),
        ("tolerate -1 rows", "fewer rows than none cannot be"),
        ("tolerate 1 row\ntolerate 2 rows", "tolerate is allowed once in a recipe"),
        ("require one row per kilm", 'the extract has no column "kilm"'),
        ("require no nulls in peak failures null", "stop or aside or warn is expected here"),
        ("require between 1 and 2 rows failures aside", "stop or warn is expected here"),
        ("convert peak to integer failures null\nrequire only 'a' in peak", "which is integer"),
    ],
)
def test_mistakes(refused, steps: str, message: str) -> None:
    refused(steps, ROWS, message)
