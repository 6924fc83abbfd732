"""The extracts of `mangler run`, one after the other, each into a place of its own."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import closing

from mangler.cli.cleaning import Manner, Outcome, clean_one, show_outcome
from mangler.cli.places import Place
from mangler.cli.progress import ProgressBar, size_of
from mangler.engine.recipe import Recipe
from mangler.history.recording import RecipeHistory


def clean_in_turn(
    recipe: Recipe, places: Sequence[Place], manner: Manner, past: RecipeHistory | None, only_new: bool
) -> list[Outcome]:
    """What became of each extract is shown at once."""
    outcomes = []
    for place in places:
        outcome = passed_over(place, past) if only_new else None
        if outcome is None:
            with closing(ProgressBar(place.extract, size_of(place.extract), not manner.silent)) as bar:
                outcome = clean_one(recipe, place, manner, past, bar)
        show_outcome(outcome, place.extract, manner)
        outcomes.append(outcome)
    return outcomes


def passed_over(place: Place, past: RecipeHistory | None) -> Outcome | None:
    """The outcome of an extract whose content was delivered before; None where it was not."""
    account = past.delivered_before(place.extract) if past is not None else None
    return Outcome(account, 0) if account else None
