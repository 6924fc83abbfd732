"""The history of the recipe that is run."""

from __future__ import annotations

from pathlib import Path

from mangler.cli.answering import show_line
from mangler.engine.recipe import Recipe
from mangler.history.recording import RecipeHistory
from mangler.history.store import beside
from mangler.language.mistake import Refusal


def past_runs(
    loaded: Recipe, recipe: Path, path: Path | None, needed: bool, quiet: bool
) -> RecipeHistory | None:
    """The recipe's history; None where none can be kept and nobody asked for one."""
    try:
        return RecipeHistory.open(path or beside(recipe), recipe, loaded.digest)
    except Refusal as refusal:
        if needed:
            raise
        if not quiet:
            show_line(f"No history is kept: {refusal.mistakes[0].message}.")
        return None
