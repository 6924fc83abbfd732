from __future__ import annotations

from mangler.engine.proof.proof import Outcome, Verdict, prove
from mangler.engine.run.linked_recipe import LinkedRecipe


def verdict(text: str) -> Verdict:
    return prove(LinkedRecipe.parse("mangler 1\n" + text).parsed)[-1]


def test_only_the_columns_shown_are_compared() -> None:
    text = 'trim *\ntest\n  a | b\n  " x" | " y"\n  becomes\n  b\n  y\n'
    assert verdict(text).outcome is Outcome.PASSED


def test_null_empty_and_text_are_three_things() -> None:
    for wanted, outcome in (("null", Outcome.FAILED), ('""', Outcome.PASSED), ("x", Outcome.FAILED)):
        assert verdict(f'trim a\ntest\n  a\n  "  "\n  becomes\n  a\n  {wanted}\n').outcome is outcome


def test_the_order_of_columns_and_of_rows_counts() -> None:
    text = "reorder columns b, *\ntest\n  a | b\n  1 | 2\n  becomes\n  {}\n  {}\n"
    assert verdict(text.format("b | a", "2 | 1")).outcome is Outcome.PASSED
    failed = verdict(text.format("a | b", "1 | 2"))
    assert failed.outcome is Outcome.FAILED and failed.names == ("b", "a")
    rows = "trim a\ntest\n  a\n  1\n  2\n  becomes\n  a\n  2\n  1\n"
    assert verdict(rows).outcome is Outcome.FAILED


def test_a_row_too_few_or_too_many_fails() -> None:
    for wanted in ("  1\n", "  1\n  2\n  3\n", ""):
        assert verdict(f"trim a\ntest\n  a\n  1\n  2\n  becomes\n  a\n{wanted}").outcome is Outcome.FAILED


def test_a_column_that_does_not_come_out_is_named() -> None:
    failed = verdict("rename a to b\ntest\n  a\n  1\n  becomes\n  a\n  1\n")
    assert failed.outcome is Outcome.FAILED and failed.problems == ("There came out no column a.",)


def test_another_number_of_steps_that_would_pass_is_reported() -> None:
    steps = "trim a\nrecase a upper\nreplace 'X' with 'y' in a\n"
    test = 'test{}\n  a\n  " x"\n  becomes\n  a\n  y\n'
    assert verdict(steps + test.format("")).passes_over == 3
    assert verdict(steps + test.format(" for 3 steps")).outcome is Outcome.PASSED
    assert verdict("trim a\n" + test.format("")).passes_over == 0


def test_a_step_that_names_a_column_the_test_lacks() -> None:
    refused = verdict("fill a, b with 'x'\ntest\n  a\n  null\n  becomes\n  a\n  x\n")
    assert refused.outcome is Outcome.REFUSED and refused.refusal is not None
    mistake = refused.refusal.mistakes[0]
    assert mistake.message == 'the test in line 3 gives no column "b" to this step'
    assert "add b to the table in line 4" in mistake.advice


def test_carrying_steps_and_tables_without_rows() -> None:
    text = "fill a down\ntest\n  a\n  1\n  null\n  becomes\n  a\n  1\n  1\n"
    assert verdict(text).outcome is Outcome.PASSED
    assert verdict("fill a down\ntest\n  a\n  becomes\n  a\n").outcome is Outcome.PASSED


def test_a_failing_test_has_the_remarks_of_its_steps() -> None:
    failed = verdict("replace 'ash' with 'Ash' in a\ntest\n  a\n  ASH\n  becomes\n  a\n  Ash\n")
    assert any("another letter case" in remark for remark in failed.remarks)
    assert failed.to_json()["got"] == {"columns": ["a"], "rows": [["ASH"]], "aside": []}
