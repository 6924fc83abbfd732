"""The whole corpus."""

from __future__ import annotations

from tests.insight.corpus import (
    clean,
    dates,
    hard,
    lists,
    null_words,
    numbers,
    spelling,
    strange,
    white_space,
)
from tests.insight.corpus.specimen import Sheet, draw

FAMILIES = (clean, white_space, null_words, spelling, numbers, dates, lists, hard, strange)


def sheets(number: int = 0) -> list[Sheet]:
    """Every table of one draw."""
    draw(number)
    return [sheet for family in FAMILIES for sheet in family.sheets()]
