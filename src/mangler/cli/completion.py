"""What a shell is offered: files by kind, and verbs."""

from __future__ import annotations

from pathlib import Path

NO_EXTRACTS = (".mangler", ".py", ".md", ".html", ".png")


def complete_recipes(incomplete: str) -> list[str]:
    """Recipes, and folders on the way to them."""
    return [path for path in _paths(incomplete) if path.endswith(("/", ".mangler"))]


def complete_extracts(incomplete: str) -> list[str]:
    """Files that may be extracts, and folders on the way to them."""
    return [path for path in _paths(incomplete) if not path.endswith(NO_EXTRACTS)]


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
