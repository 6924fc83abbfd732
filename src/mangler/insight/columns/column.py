"""A column as the finders see it: what was counted of it, and what it says."""

from __future__ import annotations

from dataclasses import field
from functools import cached_property

import numpy as np
import pyarrow.compute as pc

from mangler.insight.columns.content import Content, content_of
from mangler.insight.columns.counting import ColumnCounts
from mangler.insight.columns.shape_kinds import MACHINE, ShapeKind
from mangler.late_dataclass import dataclass
from mangler.table.select import quote_name

CODES = (ShapeKind.CODE, *MACHINE)
WHOLLY, FEW = 0.9, 0.1
FEW_CELLS = 8
SENTENCE_WORDS, LONG_TEXT_WORDS = 4.0, 7.0
"""Words of a cell, on average, from which it may be a sentence, and from which it is one without other signs."""
LONG_PARTS = 2.5
"""Words between commas and the like, on average, below which they are lists."""
MOSTLY_UNLIKE, MANY_UNLIKE = 0.5, 40
LEAST_NAMES = 6
SMALL_WORDS = (
    r"(?i)\b(?:the|of|and|an?|in|to|is|was|were|with|for|from|at|on|by|or|you|we|it|that|this|not|as|if"
    r"|der|die|das|und|mit|von|ist|le|la|les|des?|et|une?|el|los|las|del|il|che|het|een|van)\b.*\s"
)
"""Words that sentences and titles have, with more text after them."""


@dataclass
class Column:
    """`words` are the null words found in it, without letter case; they say nothing, and are no content."""

    counted: ColumnCounts
    words: frozenset[str] = frozenset()
    sure_words: frozenset[str] = frozenset()
    """Those of them that no person needs to decide about."""
    _said: Content | None = field(default=None, repr=False)

    @property
    def name(self) -> str:
        return self.counted.name

    @property
    def spelled(self) -> str:
        """The name as a recipe spells it."""
        return quote_name(self.counted.name)

    @cached_property
    def everything(self) -> Content:
        """What the column says, null words too."""
        return content_of(self.counted.values.values, self.counted.values.counts)

    @property
    def said(self) -> Content:
        """What the column says, null words left out."""
        if self._said is None:
            self._said = self.everything.without(self.words)
        return self._said

    def set_words(self, words: frozenset[str], sure_words: frozenset[str]) -> None:
        self.words, self.sure_words, self._said = words, sure_words, None

    @cached_property
    def is_free_text(self) -> bool:
        """Whether the cells are sentences or titles: several words each, small words among them, few cells alike."""
        said = self.everything
        if said.cells < FEW_CELLS or said.share_of(MACHINE) > FEW:
            return False
        words = np.asarray(pc.count_substring(said.texts, pattern=" ")) + 1
        average = float(np.average(words, weights=said.counts))
        marks = np.asarray(pc.count_substring_regex(said.texts, pattern="[;|,\n]")) + 1
        if float(np.average(words / marks, weights=said.counts)) < LONG_PARTS:
            return False
        if average < SENTENCE_WORDS or (len(said) < MOSTLY_UNLIKE * said.cells and len(said) < MANY_UNLIKE):
            return average >= LONG_TEXT_WORDS and said.cells_of(said.matching(SMALL_WORDS)) >= said.cells / 2
        small = said.cells_of(said.matching(SMALL_WORDS))
        ends = said.cells_of(said.matching(r"[.!?]$"))
        return small >= 0.4 * said.cells or ends >= 0.5 * said.cells or average >= LONG_TEXT_WORDS

    @cached_property
    def is_unlike(self) -> bool:
        """Whether nearly every cell has a value of its own."""
        said = self.everything
        return said.cells >= FEW_CELLS and len(said) >= WHOLLY * said.cells

    @cached_property
    def of_names(self) -> bool:
        """Whether the cells are names of people or places: words that start with a capital, and no digits."""
        said = self.everything
        named = said.matching(r"^\p{Lu}\p{Ll}+(?:[ '’-]\p{Lu}?[\p{Ll}.]+)*$")
        return len(said) >= LEAST_NAMES and said.cells_of(named) >= WHOLLY * said.cells

    @cached_property
    def is_closed(self) -> bool:
        """Whether the cells take few values, each of them often: a set of levels."""
        said = self.everything
        return (
            said.cells >= FEW_CELLS
            and len(said) <= max(12, 0.05 * said.cells)
            and len(said) * 3 <= said.cells
        )

    @cached_property
    def of_codes(self) -> bool:
        """Whether nearly every row has a value of its own, with digits in it: numbers of parts, invoices, people."""
        said = self.everything
        return (
            said.cells >= 8
            and len(said) >= WHOLLY * said.cells
            and said.share_of(CODES) >= WHOLLY
            and said.share_of(MACHINE) < WHOLLY
            and said.cells_of(said.matching("[;|,=]")) < FEW * said.cells
        )
