"""Texts and characters as a recipe spells them."""

from __future__ import annotations

KNOWN = {"\n": "\\n", "\t": "\\t", "\r": "\\r", '"': '\\"', "\\": "\\\\", "{": "\\{", "}": "\\}"}


def spell_character(character: str) -> str:
    """A character as it is between double quotes."""
    if character in KNOWN:
        return KNOWN[character]
    return character if character.isprintable() else f"\\u{{{ord(character):X}}}"


def spell_text(text: str) -> str:
    """A text in double quotes, what cannot be seen by its code point."""
    return '"' + "".join(map(spell_character, text)) + '"'
