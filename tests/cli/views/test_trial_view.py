from __future__ import annotations

import io

from rich.console import Console

from mangler.cli.views.trial_view import MOST_SHOWN, show_trial
from mangler.engine.plan.plan import PlannedStep
from mangler.engine.run.summary import StepLine
from mangler.engine.trial.differences import CellChange, Differences, ShapedRow
from mangler.engine.trial.trial import StepTrial, Trial
from mangler.recipes.command_line_steps import read_steps
from mangler.steps import bind
from mangler.table.schema import Schema
from mangler.table.tally import Tally


def shown(found: Differences, width: int = 80, tally: Tally | None = None) -> str:
    schema = Schema.of_text(["kiln", "studio"])
    (statement,) = read_steps(["trim *"])
    planned = PlannedStep(statement, bind(statement, schema))  # type: ignore[arg-type]
    step = StepTrial(
        planned, schema, schema, found, StepLine(0, "trim *", tally or Tally(rows_in=3, rows_out=3))
    )
    out = io.StringIO()
    show_trial(Console(file=out, width=width, highlight=False, no_color=True), Trial("a.csv", [step], 3, 3))
    return out.getvalue()


def test_every_touched_column_has_some_of_its_changes_shown() -> None:
    changes = [CellChange(n, "kiln", f" {n}", str(n)) for n in range(1, 30)] + [
        CellChange(7, "studio", " x", "x", 5)
    ]
    text = shown(Differences(cells={(c.column, c.before, c.after): c for c in changes}, rows_touched=30))
    assert "studio" in text and text.count("kiln") == MOST_SHOWN - 1
    assert "and 20 other changes in 20 cells" in text
    assert all(len(line) <= 80 for line in text.split("\n"))


def test_rows_of_each_kind_have_a_sign_and_what_does_not_fit_is_named() -> None:
    wide = {f"column_{n}": "x" * 20 for n in range(6)}
    rows = [
        ShapedRow(1, "changed", {"kiln": "a,b", **wide}, {"kiln": "a", **wide}),
        ShapedRow(1, "new", {}, {"kiln": "b", **wide}),
        ShapedRow(2, "removed", {"kiln": None, **wide}, {}),
    ]
    text = shown(Differences(rows=rows, rows_touched=12))
    lines = text.split("\n")
    assert any(line.split()[:1] == ["+1"] for line in lines) and any(
        line.split()[:2] == ["−2", "(null)"] for line in lines
    )
    assert "4 more do not fit: column_2, column_3, column_4, column_5" in text
    assert "and 9 more rows" in text and "+ row: a new row; − row: a row that goes" in text


def test_failing_rows_and_the_legend() -> None:
    tally = Tally(rows_in=3, rows_out=2, failed=1, failures=[(3, 4, "division by zero")])
    text = shown(Differences(), tally=tally)
    assert "✗ 1 row fails" in text and "row 3, line 4: division by zero" in text
    assert "⟨removed⟩" not in text and "Tried on all 3 rows of a.csv." in text
