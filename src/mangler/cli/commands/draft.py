"""`mangler draft`: a first recipe from what a profile finds."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from mangler.addresses import is_database, is_remote, name_of
from mangler.cli.answering import show_answer, show_json, show_line
from mangler.cli.parameters import ExtractFile, ReadWords

if TYPE_CHECKING:
    from mangler.insight.profile.draft import Draft

ToOption = Annotated[
    Path | None,
    typer.Option(
        metavar="RECIPE",
        help="The recipe to write; standard output by default.",
        show_default=False,
    ),
]
ReplaceOption = Annotated[bool, typer.Option("--replace", help="Write over a RECIPE that is there.")]
JsonOption = Annotated[
    bool, typer.Option("--json", help="Give the recipe and its counts as JSON, for machines.")
]


def draft(
    file: ExtractFile,
    to: ToOption = None,
    replace: ReplaceOption = False,
    read: ReadWords = None,
    json: JsonOption = False,
) -> int:
    """Write a first recipe for files like this one, from what profile finds in it.

    The steps are in the order of the work: read, require, white space, nulls, spelling, lists, splitting, types.
    Each has its reason above it and a test with cells of the file under it. Where a person must decide, the step is
    there and switched off by a # in front; take the # away to switch it on.

    Exit codes: 0 done; 2 the command line is wrong; 3 the file cannot be read, or RECIPE is there or cannot be
    written.
    """
    from mangler.cli.progress import ProgressBar
    from mangler.insight.profile.draft import draft as draft_of
    from mangler.insight.profile.profile import profile_file
    from mangler.jobs.events import size_of
    from mangler.recipes.options import read_words
    from mangler.recipes.recipe_layout import replace_recipe
    from mangler.steps.read import settings

    _refuse_place(to, replace, file)
    words = read_words(read) if read is not None else None
    bar = ProgressBar(file, size_of(file), wanted=not json)
    try:
        found = profile_file(file, settings(words), None, bar)
    finally:
        bar.close()
    title = to.stem if to is not None else title_of(file)
    drafted = draft_of(found, title)
    if to is not None:
        replace_recipe(str(to), drafted.text)
    if json:
        counts = {"steps": drafted.steps, "undecided": drafted.undecided}
        show_json(
            {"extract": found.extract, "recipe": drafted.text, "written": str(to) if to else None, **counts}
        )
        return 0
    if to is None:
        _show(drafted)
        return 0
    _show_written(to, file, drafted)
    return 0


def _show(drafted: Draft) -> None:
    """The recipe as it is; with colours where the answer has them."""
    from mangler.cli.colour import is_coloured

    if not is_coloured(sys.stdout):
        show_answer(drafted.text)
        return
    from mangler.cli.paging import paged
    from mangler.cli.screen import answer_console
    from mangler.cli.views.recipe_view import recipe_text

    with paged(answer_console()):
        answer_console().print(recipe_text(drafted.text), soft_wrap=True, end="")


def _refuse_place(to: Path | None, replace: bool, file: str) -> None:
    """Refuses a recipe that cannot be written, or that would replace something."""
    from mangler.engine.run.overwriting import refuse_overwriting
    from mangler.language.mistake import file_trouble, wrong_recipe

    if replace and to is None:
        raise wrong_recipe(
            "option-without-effect",
            "--replace has nothing to replace",
            "Name the recipe: --to RECIPE --replace.",
        )
    if to is not None and to.is_dir():
        raise file_trouble(
            "path-is-folder", f"{to} is a folder", f"Name a file in it: --to {to}/first.mangler"
        )
    if to is not None and to.exists() and not replace:
        raise file_trouble(
            "file-exists",
            f"{to} is there already, and is left as it is",
            "Name another file, or add --replace.",
        )
    if to is not None:
        refuse_overwriting([(to, "the recipe")], [(file, "the file that is drafted from")])


def _show_written(to: Path, file: str, drafted: Draft) -> None:
    on = (
        "1 step with its reason and test"
        if drafted.steps == 1
        else f"{drafted.steps:,} steps with their reasons and tests"
    )
    off = f", {drafted.undecided:,} more switched off until you decide" * bool(drafted.undecided)
    show_line(f"Wrote {to}: {on}{off}.")
    show_line(f"  Its tests:         mangler test {to}")
    if file != "-":
        show_line(f"  What it would do:  mangler run {to} {file} --rehearse")


def title_of(file: str) -> str:
    """What a drafted recipe is called: as its file, or the table of a database."""
    if is_database(file):
        place, _, table = file.partition("#")
        return table or Path(place.partition("?")[0]).stem or "draft"
    if is_remote(file):
        return name_of(file).split(".")[0] or "draft"
    return "draft" if file == "-" else Path(file).name.split(".")[0] or "draft"
