"""`mangler demo`: the sample extracts and recipe, and what a run makes of them."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from mangler.cli.answering import answering

SHOWN = ("clayworks-week-18.csv", "clayworks-week-19.csv", "quayside-week-19.csv")


@answering
def demo(
    folder: Annotated[Path, typer.Argument(help="Where the example goes; it must not be there yet.")] = Path(
        "kiln-log"
    ),
    rows: Annotated[int, typer.Option(metavar="N", min=1, help="Rows of each sample extract.")] = 60,
) -> int:
    """Write a made-up example, extracts and recipe, and clean it, saying what is done."""
    from mangler.cli.places import plan_places
    from mangler.cli.screen import error_console
    from mangler.cli.summary_view import show_balance, show_summary
    from mangler.engine.destination import DelimitedOutput
    from mangler.engine.recipe import Recipe
    from mangler.engine.running import RunOptions
    from mangler.language.mistake import file_trouble, reason
    from mangler.sample.generate import write_sample

    if folder.exists():
        raise file_trouble(f"{folder} is there already", "Name another folder: mangler demo FOLDER")
    try:
        folder.mkdir()
        write_sample(folder, rows)
        clean = folder / "clean"
        clean.mkdir()
    except OSError as error:
        raise file_trouble(f"{folder} cannot be written: {reason(error)}") from None
    console = error_console()
    console.print(f"Wrote {folder}/extracts, four kiln logs as they were typed on the day,")
    console.print(f"and {folder}/kiln-log.mangler, the recipe that cleans them. Weeks 18 and 19:")
    recipe = Recipe.load(folder / "kiln-log.mangler")
    shown = False
    for place in plan_places([str(folder / "extracts" / name) for name in SHOWN], str(clean), None):
        console.print()
        result = recipe.clean(place.extract, DelimitedOutput(place.output), place.aside, RunOptions())
        result.summary.output = str(place.output)
        if result.summary.balance.set_aside:
            result.summary.aside = str(place.aside)
        if not shown:
            show_summary(console, result.summary)
        else:
            show_balance(console, result.summary)
        shown = True
    console.print()
    console.print(
        "Week 20 has drifted: another delimiter and a column more. See it refused, with its reason:"
    )
    week_20 = folder / "extracts" / "clayworks-week-20.csv"
    console.print(f"  mangler run {folder}/kiln-log.mangler {week_20} --to {clean}/", style="bold")
    return 0
