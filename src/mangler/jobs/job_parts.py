"""What those need to know who clean several extracts of a job at once."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.history.recording import RecipeHistory
from mangler.jobs.outcome import JobSettings
from mangler.jobs.output_paths import OutputPaths
from mangler.late_dataclass import dataclass


@dataclass(frozen=True)
class JobParts:
    recipe: LinkedRecipe
    path: Path
    """Of the recipe."""
    all_paths: Sequence[OutputPaths]
    settings: JobSettings
    past: RecipeHistory | None
    only_new: bool
