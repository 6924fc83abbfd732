from __future__ import annotations

import numpy as np
import pyarrow as pa

from mangler.engine.proof.proof import Outcome, prove
from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.steps.shared.failing import withdraw
from mangler.table.batch import Batch, NoOrigin
from mangler.table.row_notes import RowNotes
from mangler.table.tally import Tally


def test_sister_rows_are_withdrawn_with_the_row_set_aside() -> None:
    """Rows 1 and 3 were several rows each before this step: an extract row is delivered whole or not at all."""
    batch = Batch((pa.array(list("abcdef")),), np.array([1, 1, 2, 3, 3, 3]), NoOrigin())
    tally = Tally()
    notes = RowNotes(np.array([1, 3]), np.array([1, 0]), ("neither", "no"))
    out, stay = withdraw(batch, notes, "aside", tally)
    assert out.columns[0].to_pylist() == ["c"] and out.rows.tolist() == [2]
    assert stay is not None and stay.tolist() == [False, False, True, False, False, False]
    assert tally.withdrawn == 5 and list(tally.aside) == [(1, "no"), (3, "neither")]


def outcome(text: str) -> tuple[Outcome, tuple[str, ...]]:
    verdict = prove(LinkedRecipe.parse("mangler 1\n" + text).parsed)[-1]
    return verdict.outcome, verdict.problems


STEP = "make n = integer(a) failures aside\ntest\n  a\n  1\n  x\n  becomes\n  a | n{}\n  1 | {}\n{}"


def test_tests_state_types_and_rows_set_aside() -> None:
    aside = '  aside "\\"x\\" is not an integer"\n'
    assert outcome(STEP.format(" integer", "1", aside)) == (Outcome.PASSED, ())
    assert outcome(STEP.format("", "01", aside))[0] is Outcome.PASSED
    assert outcome(STEP.format(" text", "1", aside))[1] == ('"n" came out as integer, and text is expected.',)
    assert outcome(STEP.format("", "1", ""))[1] == (
        'Rows set aside: expected none, got ""x" is not an integer".',
    )
    given = "make b = n + 1\ntest\n  n decimal\n  1.50\n  becomes\n  b decimal\n  2.5\n"
    assert outcome(given) == (Outcome.PASSED, ())


def test_a_failing_step_is_reported_by_its_test() -> None:
    verdict = prove(
        LinkedRecipe.parse("mangler 1\nmake b = integer(a)\ntest\n  a\n  x\n  becomes\n  b\n  1\n").parsed
    )[0]
    assert verdict.outcome is Outcome.REFUSED and "fails on 1 of the rows" in str(verdict.refusal)
