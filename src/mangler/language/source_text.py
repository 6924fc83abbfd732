"""Texts of recipes and of the command line, before they are read."""

from __future__ import annotations

import re

from mangler.language.mistake import wrong_recipe
from mangler.language.source import Source, SourceSpan

CONTROLS = re.compile("[\\x00-\\x08\\x0b-\\x1f\\x7f-\\x9f]")
SURROGATES = re.compile("[\\ud800-\\udfff]")


def source_of(name: str, text: str) -> Source:
    """The text as a source.

    Refused are control characters other than tab and line end, which could command a terminal and which nobody sees,
    and bytes that are not UTF-8, which Python hands on as surrogates.
    """
    source = Source(name, text)
    found = SURROGATES.search(source.text)
    if found:
        raise wrong_recipe(
            "encoding",
            f"{name} holds bytes that are not UTF-8",
            "Write it in UTF-8.",
            _without_text(source, found.start()),
        )
    found = CONTROLS.search(source.text)
    if found:
        code = ord(found.group())
        raise wrong_recipe(
            "control-character",
            f"the control character U+{code:04X} cannot be in a recipe as it is",
            f'In a text it is written as an escape: "\\u{{{code:04X}}}".' if code else "Take it out.",
            SourceSpan(source, found.start(), found.start() + 1),
        )
    return source


def _without_text(source: Source, offset: int) -> SourceSpan:
    """The place in a text that shows what is not UTF-8 as a replacement character."""
    shown = Source(source.name, SURROGATES.sub("\ufffd", source.text))
    return SourceSpan(shown, offset, offset + 1)
