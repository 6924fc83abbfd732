"""What a shell is offered: files by kind, and verbs."""

from __future__ import annotations

from pathlib import Path

import typer

MOST_RUNS = 50
NO_EXTRACTS = (".mangler", ".py", ".md", ".html", ".png")


def complete_recipes(incomplete: str) -> list[str]:
    """Recipes, and folders on the way to them."""
    return [path for path in _paths(incomplete) if path.endswith(("/", ".mangler"))]


def complete_extracts(incomplete: str) -> list[str]:
    """Files that may be extracts, and folders on the way to them."""
    return [path for path in _paths(incomplete) if not path.endswith(NO_EXTRACTS)]


def complete_columns(context: typer.Context, incomplete: str) -> list[str]:
    """The columns of the file that the command line names, for the last of a list of them."""
    from mangler.engine.trial.look import look_at
    from mangler.language.mistake import Refusal
    from mangler.table.select import quote_name
    from mangler.table.settings import ReadSettings

    file = _given(context, "file")
    if not file or file == "-":
        return []
    try:
        names = [quote_name(column.name) for column in look_at(str(file), ReadSettings(), 1, 1).columns]
    except Refusal:
        return []
    front, comma, last = incomplete.rpartition(",")
    start = last.lstrip()
    return [f"{front}{comma}{' ' * bool(comma)}{name}" for name in names if name.startswith(start)]


def complete_parameters(context: typer.Context, incomplete: str) -> list[str]:
    """The parameters of the recipe that the command line names, each with its =."""
    from mangler.language.mistake import Refusal
    from mangler.language.recipe import load_source, parse_recipe
    from mangler.steps import VERBS

    recipe = _given(context, "recipe")
    if not recipe:
        return []
    try:
        found = parse_recipe(load_source(Path(str(recipe))), VERBS).statements
    except Refusal:
        return []
    names = [str(one.values["name"].value) for one in found if one.verb == "parameter"]
    return [f"{name}=" for name in names if name.startswith(incomplete)]


def _given(context: typer.Context, name: str) -> str:
    """What the command line names so far; behind an option without a value, words are not taken for arguments yet."""
    words = [word for word in context.args if not word.startswith("-")]
    return str(context.params.get(name) or next(iter(words), ""))


def complete_runs(context: typer.Context, incomplete: str) -> list[str]:
    """Recipes, show, and behind show the numbers of the last runs."""
    from mangler.history.store import History, beside
    from mangler.language.mistake import Refusal

    words = context.params.get("words") or []
    if list(words)[:1] != ["show"]:
        return [*(["show"] if "show".startswith(incomplete) else []), *complete_recipes(incomplete)]
    try:
        history = History.open(Path(context.params.get("path") or beside(Path("here"))), make=False)
        try:
            numbers = [str(run.number) for run in history.runs(None, MOST_RUNS)]
        finally:
            history.close()
    except Refusal:
        return []
    return [number for number in numbers if number.startswith(incomplete)]


def complete_verbs(incomplete: str) -> list[str]:
    """The verbs of steps; of a step that has its verb, nothing more."""
    from mangler.steps import VERBS

    return [name for name in VERBS.names() if VERBS.is_step(name) and name.startswith(incomplete)]


def _paths(incomplete: str) -> list[str]:
    """What is in the folder typed so far and starts like the rest."""
    folder, _, start = incomplete.rpartition("/")
    root = Path(folder + "/") if "/" in incomplete else Path()
    prefix = f"{folder}/" if "/" in incomplete else ""
    try:
        entries = sorted(root.iterdir())
    except OSError:
        return []
    return [
        f"{prefix}{entry.name}{'/' * entry.is_dir()}"
        for entry in entries
        if entry.name.startswith(start)
        and (start.startswith(".") or not entry.name.startswith("."))
        and entry.name.isprintable()  # a shell would show the others as they are
    ]
