"""How characters that nobody sees, or that could command a terminal, are shown: one spelling everywhere."""

from __future__ import annotations

import re

from mangler.blanks import BLANKS

SEEN = {"\t": "→", "\n": "↵", "\r": "←", "\u00a0": "⍽"}
HARMLESS = "\n\t "
"""In a message these lay out the text; in a cell they are shown."""
UNSEEN = re.compile(r"[^\x20-\x7e\n\t]+")


def spelled(character: str) -> str:
    """A character as it is shown: a mark for the common blanks, the code point for what cannot be seen."""
    if character in SEEN:
        return SEEN[character]
    if "\ud800" <= character <= "\udfff":  # a byte that was not UTF-8, as Python hands it on
        return f"‹{ord(character) & 0xFF:02X}›"
    if character in BLANKS or not character.isprintable():
        return f"‹{ord(character):04X}›"
    return character


def shown(text: str) -> str:
    """A message with everything in it that comes from outside made visible."""
    if text.isascii() and text.isprintable():
        return text
    return UNSEEN.sub(_spelled_run, text)


def _spelled_run(found: re.Match[str]) -> str:
    run = found.group()
    return run if run.isprintable() else "".join(map(spelled, run))
