"""A column as the finders see it: what was counted of it, and what it says."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property

from mangler.insight.columns.content import Content, content_of
from mangler.insight.columns.counting import ColumnCounts
from mangler.insight.columns.shape_kinds import MACHINE, ShapeKind
from mangler.table.select import quote_name

CODES = (ShapeKind.CODE, *MACHINE)
WHOLLY, FEW = 0.9, 0.1


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
