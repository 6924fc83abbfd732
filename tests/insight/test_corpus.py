"""The findings on columns whose faults are known: how many are right, and how many are found."""

from __future__ import annotations

import pytest
from tests.insight.corpus import clean, held_out
from tests.insight.corpus.every import FAMILIES, sheets
from tests.insight.corpus.meaning import all_harm, harm_of
from tests.insight.corpus.measure import profiled, scores, steps_for_clean
from tests.insight.corpus.specimen import Sheet, draw, meant

from mangler.engine.proof.proof import Outcome, prove
from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.insight.columns.finding import Kind
from mangler.insight.profile.draft import draft
from mangler.insight.profile.profile import profile_file
from mangler.kernels.text.rendering import Layout, quote_text
from mangler.recipes.recipe_layout import laid_out
from mangler.table.settings import ReadSettings

LEAST = 0.95
LAYOUT = Layout(";", '"', "\n")


@pytest.fixture(scope="module")
def seen():
    return [pair for number in (0, 1) for pair in profiled(sheets(number))]


@pytest.mark.parametrize("kind", Kind)
def test_findings_are_right_and_faults_are_found(seen, kind: Kind):
    score = scores(seen)[kind]
    assert score.right
    assert score.precision >= LEAST, score.wrong
    assert score.recall >= LEAST, score.missed


@pytest.fixture(scope="module")
def held_out_seen():
    draw(0)
    return profiled(held_out.sheets())


def test_columns_that_no_finder_was_tuned_on(held_out_seen):
    """The bounds of the whole: single kinds are too few there."""
    by_kind = scores(held_out_seen).values()
    right, wrong = sum(len(one.right) for one in by_kind), sum(len(one.wrong) for one in by_kind)
    missed = sum(len(one.missed) for one in by_kind)
    assert len(held_out_seen) > 300
    assert right / (right + wrong) >= 0.97
    assert right / (right + missed) >= 0.97


def test_no_step_that_is_on_changes_what_a_cell_means(seen, held_out_seen):
    told = [one for one in seen if one[0].truth or not one[0].kinds]
    assert len(told) > 300
    assert all_harm(told) == []
    assert all_harm(held_out_seen) == []


def test_the_measure_of_harm_sees_harm():
    column = meant("codes", [("A1", "A1"), ("N/A", "N/A"), ("A2", "A2"), ("A3", "A3"), ("A1", "A1")])
    [(specimen, profile)] = profiled([Sheet((column,))])
    assert [(one.cell, one.became) for one in harm_of(specimen, profile)] == [("N/A", None)]


def test_no_step_is_proposed_for_a_clean_column(seen):
    assert sum(not specimen.kinds for specimen, _ in seen) > 200
    assert steps_for_clean(seen) == []


def test_a_step_changes_something_and_says_so(seen):
    for specimen, profile in seen:
        for proposal in profile.proposals:
            assert proposal.cells > 0, specimen.name
            assert proposal.sure is (proposal.question == "")
            assert not (proposal.sure and proposal.failing), specimen.name


def test_what_is_found_is_in_no_more_cells_than_there_are(seen):
    for specimen, profile in seen:
        for finding in profile.findings:
            assert 0 < finding.cells <= len(specimen.cells), specimen.name


def _as_file(sheet: Sheet) -> str:
    """A file of the sheet's columns and one more, so that no line is empty."""

    def field(cell: str | None) -> str:
        return "" if cell is None else '""' if cell == "" else quote_text(cell, LAYOUT)

    lines = [[*(quote_text(one.name, LAYOUT) for one in sheet.columns), "z"]]
    lines += [[*map(field, row), "z"] for row in zip(*(one.cells for one in sheet.columns), strict=True)]
    return "".join(";".join(line) + "\n" for line in lines)


@pytest.mark.parametrize("family", FAMILIES, ids=lambda family: family.__name__.rpartition(".")[2])
def test_every_draft_runs_as_it_is_and_proves_itself(family, tmp_path):
    draw(2)
    path, proved = tmp_path / "sheet.csv", 0
    for sheet in family.sheets():
        name = sheet.columns[0].name
        path.write_text(_as_file(sheet), "utf-8", newline="")
        drafted = draft(profile_file(str(path), ReadSettings()), "sheet")
        assert laid_out("sheet", drafted.text) == drafted.text, name
        recipe = LinkedRecipe.parse(drafted.text)
        outcomes = [verdict.outcome for verdict in prove(recipe.parsed)]
        assert outcomes == [Outcome.PASSED] * drafted.text.count("\ntest"), name
        proved += len(outcomes)
        balance = recipe.run(path).summary.balance
        assert balance.read == len(sheet.columns[0].cells), name
        assert balance.delivered + balance.withdrawn == balance.read, name
    assert proved > 0 or family is clean  # clean columns need no steps
