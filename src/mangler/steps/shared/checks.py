"""Checks that every statement shares: what can be known about it without an extract."""

from __future__ import annotations

import codecs
from typing import Any

from mangler.language.literals import Text, Truth
from mangler.language.mistake import Mistake, nearest
from mangler.language.names import parts_of
from mangler.language.patterns import Pattern
from mangler.language.statement import Statement

EXAMPLES = {"quote": '"\'"', "escape": '"\\\\"'}


def check_shared(statement: Statement) -> list[Mistake]:
    return check_patterns(statement.values)


def check_patterns(value: Any) -> list[Mistake]:
    """What RE2 has against any of the patterns in a statement's values or in an expression."""
    patterns = (part for part in parts_of(value) if isinstance(part, Pattern))
    return [mistake for pattern in patterns for mistake in check_pattern(pattern)]


def check_pattern(pattern: Pattern) -> list[Mistake]:
    """What RE2 has against a pattern."""
    from mangler.kernels.text.patterns import problem_of

    problem = problem_of(pattern.re2)
    if not problem:
        return []
    return [
        Mistake(
            "pattern-not-supported",
            f"this pattern cannot be read: {problem}",
            "Patterns are in RE2's syntax; a mark that means itself has a backslash before it: \\( \\[ \\. \\*.",
            pattern.span,
        )
    ]


def check_is_text(value: Any, verb: str) -> list[Mistake]:
    """For values that are put into a column of text: a text or null."""
    if value is None or isinstance(value, Text) or (isinstance(value, Truth) and value.value is None):
        return []
    return [
        Mistake(
            "text-needed",
            f"{verb} puts texts in, and {value.span.text} is none",
            f'Write "{value.span.text}", and convert the column after it.',
            value.span,
        )
    ]


def check_delimiter(text: Text | None, in_runs: bool = False) -> list[Mistake]:
    """For delimiters: one character or several. Only one of ASCII can be looked for in runs."""
    if text is None:
        return []
    problem = ""
    if not text.value:
        problem = "is empty"
    elif any(mark in text.value for mark in "\n\r\0"):
        problem = "cannot hold a line end or NUL"
    elif in_runs and not (len(text.value) == 1 and text.value.isascii()):
        problem = "in runs must be one character of ASCII"
    if not problem:
        return []
    return [
        Mistake("delimiter", f"the delimiter {problem}", 'Write delimiter ";" or delimiter "\\t".', text.span)
    ]


def check_one_character(text: Text | None, what: str, ascii_only: bool = False) -> list[Mistake]:
    """For delimiters and quotes."""
    if text is None:
        return []
    problem = ""
    if len(text.value) != 1:
        problem = f"has {len(text.value)} characters"
    elif text.value in "\n\r\0":
        problem = "cannot be a line end or NUL"
    elif ascii_only and not text.value.isascii():
        problem = "must be a character of ASCII"
    if not problem:
        return []
    return [
        Mistake(
            "one-character",
            f"the {what} {problem}",
            f"One character is meant: {what} {EXAMPLES[what]}.",
            text.span,
        )
    ]


def check_encoding(text: Text | None) -> list[Mistake]:
    """For encodings, by any name that Python knows."""
    if text is None or codec_of(text.value) is not None:
        return []
    close = nearest(
        text.value, ("utf-8", "utf-16", "windows-1252", "latin-1", "windows-1250", "mac-roman", "cp437")
    )
    advice = f"Nearest: {close[0]}. " if close else ""
    return [
        Mistake(
            "unknown-encoding",
            f'"{text.value}" is not an encoding that is known',
            f"{advice}Names are like utf-8, utf-16, windows-1252, latin-1.",
            text.span,
        )
    ]


NOT_OF_FILES = ("punycode", "idna", "undefined", "unicode_escape", "raw_unicode_escape", "unicode-escape")
"""Encodings that Python knows for names of hosts and for its own sources, and one for none."""


def codec_of(name: str) -> str | None:
    """Python's name for an encoding of text files; None when it knows none of that name."""
    try:
        found = codecs.lookup(name.strip())
    except (LookupError, ValueError):
        return None
    is_of_files = found._is_text_encoding and found.name not in NOT_OF_FILES and found.incrementaldecoder
    return found.name if is_of_files else None
