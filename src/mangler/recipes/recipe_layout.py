"""Recipe files in their canonical layout."""

from __future__ import annotations

from pathlib import Path

from mangler.formats.delivery import deliver_to
from mangler.formats.standard_input import StandardInput
from mangler.language.layout import format_recipe
from mangler.language.mistake import file_trouble
from mangler.language.recipe import decode, parse_recipe, read_bytes
from mangler.language.source import Source
from mangler.language.source_text import source_of
from mangler.steps import VERBS


def load_text(name: str) -> str:
    """A recipe's text as it is, line ends included; `-` is standard input."""
    content = StandardInput().read_all() if name == "-" else read_bytes(Path(name))
    return decode(name, content)


def laid_out(name: str, text: str) -> str:
    """The recipe in the canonical layout, with its own line ends. Its mistakes are raised."""
    recipe = parse_recipe(source_of("(standard input)" if name == "-" else name, text), VERBS)
    formatted = format_recipe(recipe)
    if parse_recipe(Source(name, formatted), VERBS).statements != recipe.statements:
        raise file_trouble(
            "fault",
            f"{name} would mean something else in the canonical layout",
            "It is left as it is. This is a fault of Mangler: please report it with the recipe.",
        )
    if "\r\n" in text:
        formatted = formatted.replace("\n", "\r\n")
    return formatted


def replace_recipe(name: str, text: str) -> None:
    """Puts a recipe into its file, whole or not at all."""
    delivery = deliver_to(Path(name))
    try:
        delivery.write(text.encode())
        delivery.commit()
    finally:
        delivery.discard()


def first_difference(text: str, formatted: str) -> int:
    """The first line in which two layouts differ, from 1."""
    pairs = zip(text.split("\n"), formatted.split("\n"), strict=False)
    return 1 + next(
        (i for i, (one, other) in enumerate(pairs) if one != other),
        min(text.count("\n"), formatted.count("\n")),
    )
