"""A sentence or two for each verb: what a step does, in words, every clause of it."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from mangler.insight.explanation.sentences import of_cells, of_columns, of_recipes, of_requirements, of_rows
from mangler.insight.explanation.words import Words

SENTENCES: Mapping[str, Callable[[Words], str]] = {
    **of_cells.SENTENCES,
    **of_columns.SENTENCES,
    **of_rows.SENTENCES,
    **of_requirements.SENTENCES,
    **of_recipes.SENTENCES,
}
"""By verb."""
