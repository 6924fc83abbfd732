from __future__ import annotations

from pathlib import Path

import pytest

from mangler.cli.views.run_view import RunView
from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.run.options import RunOptions
from mangler.jobs.outcome import JobSettings
from mangler.jobs.output_paths import OutputPaths
from mangler.jobs.several_at_once import clean_several_at_once
from mangler.jobs.worker_process import WorkerSetup


def test_a_history_that_is_gone_when_a_process_begins_is_reported_for_each_extract(
    tmp_path: Path, capfd: pytest.CaptureFixture[str]
) -> None:
    recipe, history = tmp_path / "r.mangler", tmp_path / "h.db"
    recipe.write_text("mangler 1\n")
    history.write_text("no database\n" * 50)
    all_paths = [OutputPaths(f"{name}.csv", tmp_path / f"{name}-clean.csv", None) for name in "abc"]
    setup = WorkerSetup(recipe, LinkedRecipe.load(recipe), history, JobSettings(RunOptions()))
    outcomes = clean_several_at_once(
        setup, all_paths, 2, None, False, RunView(all_paths, True, False, False, True)
    )
    assert [outcome.code for outcome in outcomes] == [3, 3, 3]
    said = capfd.readouterr().err
    assert "Traceback" not in said
    assert said.count("is not delivered:") == 3
    assert said.count("is not a history of Mangler") == 3
