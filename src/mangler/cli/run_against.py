"""`mangler run … --against TABLE`: what a run's output has that another table has not."""

from __future__ import annotations

import os
import shutil
import tempfile
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

from mangler.addresses import is_database
from mangler.jobs.outcome import Outcome
from mangler.language.mistake import file_trouble, reason, wrong_recipe

if TYPE_CHECKING:
    from mangler.insight.comparison.comparison import Comparison

MOST_SHOWN = 10


def refuse_without_one_file(against: str, target: str | None, places: int, rehearses: bool) -> None:
    """Refuses a run that leaves no file that could be compared."""
    if against == "-":
        raise wrong_recipe("options-conflict", "--against names a table, and - is none", "Name a file.")
    if not rehearses and target not in (None, "-") and places == 1 and not is_database(target or ""):
        return
    raise wrong_recipe(
        "options-conflict",
        "--against compares the file that a run writes, and this run writes none or several",
        "Name one file with --to, and compare several afterwards: mangler compare BEFORE AFTER.",
    )


@contextmanager
def kept(against: str, output: Path | None) -> Iterator[str]:
    """The table to compare with; where the run is about to replace it, it is kept until it was compared.

    One that cannot be read is refused before anything is run.
    """
    from mangler.insight.comparison.side import Side

    Side.open(against)
    if output is None or not _is_same(against, output):
        yield against
        return
    with tempfile.TemporaryDirectory(prefix="mangler-") as folder:
        own = Path(folder) / Path(against).name
        try:
            shutil.copyfile(against, own)
        except OSError as error:
            raise file_trouble("file-not-read", f"{against} cannot be kept: {reason(error)}") from None
        yield str(own)


def _is_same(against: str, output: Path) -> bool:
    try:
        return os.path.samefile(against, output)  # noqa: PTH121 - one of the two may be no path
    except (OSError, ValueError):
        return False


def compared(before: str, against: str, outcomes: Sequence[Outcome]) -> Comparison | None:
    """What differs between a table, which is called by its own name, and the output; None where there is none."""
    from dataclasses import replace

    from mangler.insight.comparison.comparing import compare

    places = {one.summary.output for one in outcomes if one.summary is not None and one.delivered}
    if not places:
        return None
    found = compare(before, places.pop())
    return replace(found, before=f"{against} as it was" if before != against else against)


def show(found: Comparison) -> None:
    from mangler.cli.screen import error_console
    from mangler.cli.views.comparison_view import show_comparison

    error_console().print()
    show_comparison(error_console(), found, MOST_SHOWN)
