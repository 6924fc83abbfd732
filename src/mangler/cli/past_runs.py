"""The history of the recipe that is run."""

from __future__ import annotations

import os
from pathlib import Path

from mangler.cli.answering import show_line
from mangler.engine.recipe import Recipe
from mangler.history.recording import RecipeHistory
from mangler.history.store import beside
from mangler.language.mistake import Refusal


def past_runs(
    loaded: Recipe, recipe: Path, path: Path | None, needed: bool, quiet: bool
) -> tuple[RecipeHistory | None, str]:
    """The recipe's history; None where none can be used and nobody asked for one.

    Then, why a run is not noted in a history that is there; empty where none can be made.
    """
    place = path or beside(recipe)
    try:
        return RecipeHistory.open(place, recipe, loaded.digest), ""
    except Refusal as refusal:
        if needed:
            raise
        why, is_there = refusal.mistakes[0].message, os.path.lexists(place)
        if not quiet:
            show_line(f"No history is kept: {why}.")
        return None, why if is_there else ""
