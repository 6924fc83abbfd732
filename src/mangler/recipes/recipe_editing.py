"""Adds steps to a recipe's text, and changes nothing else in it."""

from __future__ import annotations

import re
from collections.abc import Sequence
from pathlib import Path

from mangler.language.items import Comments, Item, Step
from mangler.language.layout import format_statement
from mangler.language.mistake import file_trouble
from mangler.language.recipe import LANGUAGE_VERSION, decode, parse_recipe, read_bytes
from mangler.language.source import Source
from mangler.language.spelling import spell_text
from mangler.language.statement import Statement
from mangler.recipes.recipe_layout import replace_recipe
from mangler.steps import VERBS


def save_steps(path: Path, steps: Sequence[Statement], read: Statement | None = None) -> None:
    """Writes steps to the end of a recipe file, before a final `write`; makes the file if it is not there.

    `read` is the read statement of a file that is made.
    """
    if path.exists():
        text = with_steps(decode(str(path), read_bytes(path)), steps)
    else:
        text = new_recipe(path.stem, steps, read)
    replace_recipe(str(path), text)


def head_of(title: str) -> str:
    """The first line of a recipe. The title is plain, whatever is in it: a name of a file."""
    plain = title.isprintable() and '"' not in title and not set("\\{") & set(title)
    if plain or not title.isprintable():
        return f"mangler {LANGUAGE_VERSION} {spell_text(title)}"
    quoted = title.replace("'", "''")
    return f"mangler {LANGUAGE_VERSION} '{quoted}'"


def new_recipe(title: str, steps: Sequence[Statement], read: Statement | None) -> str:
    """A recipe of these steps."""
    lines = [head_of(title), ""]
    if read is not None:
        lines += [format_statement(read), ""]
    return "\n".join([*lines, *map(format_statement, steps)]) + "\n"


def with_steps(text: str, steps: Sequence[Statement]) -> str:
    """A recipe's text with steps added. `text` has its own line ends, and keeps them."""
    recipe = parse_recipe(Source("recipe", text), VERBS)
    items = list(recipe.items)
    span = _before_final_write(items)
    above = items[span - 1]
    lines = re.split(r"(?<=\n)|(?<=\r)(?!\n)", text)
    line_end = "\r\n" if "\r\n" in text else "\n"
    line = _last_line(above)
    front, rest = "".join(lines[:line]), "".join(lines[line:])
    if not front.endswith(("\n", "\r")):
        front += line_end
    added = "\n".join(map(format_statement, steps)) + "\n"
    if isinstance(above, Comments):  # a comment right above would seem to mention the new steps
        added = "\n" + added
    saved = front + added.replace("\n", line_end) + rest
    _require_same(recipe.statements, saved, steps)
    return saved


def _before_final_write(items: Sequence[Item]) -> int:
    """The index before which steps are put: a `write` at the end keeps its place, and the comment above it."""
    statements = [index for index, item in enumerate(items) if isinstance(item, Step)]
    last = statements[-1]
    final = items[last]
    if not isinstance(final, Step) or final.statement.verb != "write":
        return len(items)
    with_comment = isinstance(items[last - 1], Comments) and not final.blank_before
    return last - 1 if with_comment else last


def _last_line(item: Item) -> int:
    if isinstance(item, Comments):
        return item.line + len(item.lines) - 1
    span = item.statement.span
    return span.source.locate(max(span.start, span.end - 1))[0]


def _require_same(before: Sequence[Statement], saved: str, steps: Sequence[Statement]) -> None:
    after = parse_recipe(Source("recipe", saved), VERBS).statements
    rest = list(after)
    for statement in (*before, *steps):
        if statement not in rest:
            raise file_trouble(
                "fault",
                "the steps cannot be added without changing others",
                "Nothing is saved. This is a fault of Mangler: please report it with the recipe.",
            )
        rest.remove(statement)
