"""Where the picture of a recipe's columns goes."""

from __future__ import annotations

from pathlib import Path

from mangler.cli.reports.writing import deliver_text, refuse_bad_file
from mangler.engine.run.overwriting import NamedFile
from mangler.insight.explanation.explanation import Explanation


def refuse_bad_picture(picture: Path, recipe: Path, file: str | None) -> None:
    """Refuses, before any work, a place that no picture can be written to."""
    read: list[NamedFile] = [(recipe, "the recipe")]
    if file is not None:
        read.append((file, "the extract"))
    refuse_bad_file(picture, "the picture", "a drawing", (".svg",), read)


def write_picture(picture: Path, told: Explanation) -> None:
    """Draws it, and puts it in its place at once."""
    from mangler.cli.reports.figures.lineage import lineage_file

    deliver_text(picture, lineage_file(told))
