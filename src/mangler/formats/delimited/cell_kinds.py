"""What single cells look like, to tell names from data: numbers and dates in any of their usual spellings."""

from __future__ import annotations

import re

NUMBER = re.compile(
    r"[-+−–]?\s*[$€£¥]?\s*(?:\d{1,3}(?:[ ,.'’\u00a0\u202f]\d{3})+(?:[.,]\d+)?|\d+(?:[.,]\d+)?|[.,]\d+)"
    r"(?:[eE][-+]?\d+)?\s*%?"
)
DATE = re.compile(
    r"\d{1,4}[-/.]\d{1,2}[-/.]\d{1,4}(?:[T ]\s*\d{1,2}:\d{2}(?::\d{2}(?:[.,]\d+)?)?\s*(?:Z|[-+]\d{2}:?\d{2})?)?"
    r"|\d{1,2}:\d{2}(?::\d{2}(?:[.,]\d+)?)?"
    r"|\d{1,2}[ -](?:Jan|Feb|Mar|Apr|May|Jun|Jul|Aug|Sep|Oct|Nov|Dec)[a-z]*[ -]\d{2,4}",
    re.IGNORECASE,
)
NULLS = frozenset(
    (
        "",
        "na",
        "n/a",
        "nan",
        "null",
        "none",
        "nil",
        "-",
        "--",
        ".",
        "?",
        "..",
        "*",
        "tbc",
        "tba",
        "unknown",
        "inf",
    )
)


def text_of(field: bytes) -> str:
    """A field's text for a look at it: quotes and outer blanks off."""
    text = field.decode("utf-8", errors="replace").strip()
    if len(text) > 1 and text[0] == text[-1] and text[0] in "\"'":
        text = text[1:-1].strip()
    return text


def is_number_or_date(field: bytes) -> bool:
    return bool(text_is_value(text_of(field)))


def text_is_value(text: str) -> bool:
    return bool(NUMBER.fullmatch(text) or DATE.fullmatch(text))


def is_null(text: str) -> bool:
    """Whether a cell says nothing: it is empty, or holds a word that mostly means null."""
    return text.lower() in NULLS
