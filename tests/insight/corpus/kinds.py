"""Short names for kinds of findings, and cells with what each means."""

from __future__ import annotations

from typing import Any

from mangler.insight.columns.finding import Kind

NUMBERS, DATES, WORDS, CASE, NEAR = (
    Kind.NUMBERS,
    Kind.DATES,
    Kind.NULL_WORDS,
    Kind.LETTER_CASE,
    Kind.NEAR_VARIANTS,
)
LISTS, ZEROS, OUTLIERS, BOOLEANS, OUTER = (
    Kind.LISTS,
    Kind.LEADING_ZEROS,
    Kind.OUTLIERS,
    Kind.BOOLEANS,
    Kind.OUTER_SPACE,
)
Pairs = list[tuple[str | None, Any]]
