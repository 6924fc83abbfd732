"""Mangler: repeatable cleaning recipes for tabular files.

`Recipe.load(path)` reads a recipe; `.check(extract)` and `.run(extract)` do without the command line.
`run_many(recipe, extracts, to)` cleans several extracts as `mangler run` does. `compare(before, after)` says what
differs between two tables.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from mangler.insight.comparison.comparing import compare as compare
    from mangler.jobs.run_many import run_many as run_many
    from mangler.language.mistake import Refusal as Refusal
    from mangler.library import Recipe as Recipe

__version__ = "0.1.0"
__all__ = ["Recipe", "Refusal", "__version__", "compare", "run_many"]


def __getattr__(name: str) -> object:
    # Loaded when first asked for: the program's quick answers need neither.
    if name == "Recipe":
        from mangler.library import Recipe

        return Recipe
    if name == "run_many":
        from mangler.jobs.run_many import run_many

        return run_many
    if name == "compare":
        from mangler.insight.comparison.comparing import compare

        return compare
    if name == "Refusal":
        from mangler.language.mistake import Refusal

        return Refusal
    raise AttributeError(f"module 'mangler' has no attribute {name!r}")
