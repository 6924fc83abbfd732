"""Parameters that several commands have, and options whose values have a form of their own."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from pathlib import Path
from typing import Annotated

import typer

from mangler.cli.completion import complete_extracts, complete_parameters, complete_recipes

ExtractFile = Annotated[
    str,
    typer.Argument(
        help="The table's file; - is standard input.", show_default=False, autocompletion=complete_extracts
    ),
]
RecipeFile = Annotated[
    Path,
    typer.Argument(help="The recipe, a .mangler file.", show_default=False, autocompletion=complete_recipes),
]
HistoryPlace = Annotated[
    Path | None,
    typer.Option(
        metavar="PATH", help="Where runs are noted; by default .mangler/history.db beside the recipe."
    ),
]
FilesUnder = Annotated[
    Path | None,
    typer.Option(
        metavar="FOLDER",
        help="Refuse a recipe that names a file elsewhere: by lookup, map, include or import. mangler manual trust.",
    ),
]
GivenParameters = Annotated[
    list[str] | None,
    typer.Option(
        "--set",
        metavar="NAME=VALUE",
        help="A value for a parameter of the recipe; several times for several.",
        autocompletion=complete_parameters,
    ),
]
RunDate = Annotated[
    str | None,
    typer.Option(
        metavar="DATE",
        help="The day that run_date() gives, as 2026-05-04, so that a run can be repeated; today by default.",
    ),
]
ReportPlace = Annotated[
    Path | None,
    typer.Option(
        "--report",
        metavar="FILE",
        help="Write a report too: FILE.html is a page for any browser, FILE.md is for a pull request or a chat.",
        show_default=False,
    ),
]
ReadWords = Annotated[
    str | None,
    typer.Option(metavar="WORDS", help="How to read the file, in the words of read: 'delimiter \";\"'."),
]


def named_values(settings: Sequence[str] | None) -> dict[str, str]:
    """The values by their names; what has no = is refused, and so is a name that is given twice."""
    from mangler.language.mistake import wrong_recipe  # not needed for --help

    values: dict[str, str] = {}
    for setting in settings or ():
        name, mark, value = setting.partition("=")
        name = name.strip()
        if not mark or not name:
            raise wrong_recipe("not-a-setting", f"--set {setting} gives no value", "Write --set NAME=VALUE.")
        if name in values:
            raise wrong_recipe("said-twice", f"--set {name} is there twice", "Give each parameter one value.")
        values[name] = value
    return values


def run_date_of(text: str | None) -> date | None:
    """The day that `--run-date` names; None where it is not given."""
    from mangler.language.mistake import wrong_recipe  # not needed for --help

    if text is None:
        return None
    try:
        if len(text) == len("2026-05-04"):
            return date.fromisoformat(text)
    except ValueError:
        pass
    raise wrong_recipe("not-a-date", f"--run-date {text} is not a date", "Write it as 2026-05-04.")


def memory_of(text: str | None) -> int | None:
    """The bytes that `--memory 500MB` means."""
    from mangler.language.mistake import wrong_recipe  # not needed for --help

    if text is None:
        return None
    from mangler.engine.run.memory import LEAST, bytes_of

    size = bytes_of(text)
    if size is None:
        raise wrong_recipe(
            "not-a-size", f"--memory {text} is not an amount of memory", "Write it as 500MB, 2GB or 1.5GB."
        )
    if size < LEAST:
        raise wrong_recipe(
            "too-little-memory", f"--memory {text} is too little", f"At least {LEAST // 10**6}MB are needed."
        )
    return size
