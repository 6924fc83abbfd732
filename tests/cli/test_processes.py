from __future__ import annotations

from pathlib import Path

import pytest

from mangler.cli.cleaning import Manner
from mangler.cli.places import Place
from mangler.cli.processes import Order, clean_at_once
from mangler.engine.recipe import Recipe
from mangler.engine.running import RunOptions


def test_a_history_that_is_gone_when_a_process_begins_is_reported_for_each_extract(
    tmp_path: Path, capfd: pytest.CaptureFixture[str]
) -> None:
    recipe, history = tmp_path / "r.mangler", tmp_path / "h.db"
    recipe.write_text("mangler 1\n")
    history.write_text("no database\n" * 50)
    places = [Place(f"{name}.csv", tmp_path / f"{name}-clean.csv", None) for name in "abc"]
    order = Order(recipe, Recipe.load(recipe), history, Manner(RunOptions()))
    outcomes = clean_at_once(order, places, 2, None, False)
    assert [outcome.code for outcome in outcomes] == [3, 3, 3]
    told = capfd.readouterr().err
    assert "Traceback" not in told
    assert told.count("is not delivered:") == 3
    assert told.count("is no history of Mangler") == 3
