"""Kinds of drift, and a finding of it."""

from __future__ import annotations

from enum import StrEnum

from mangler.late_dataclass import dataclass


class Change(StrEnum):
    """Kinds of drift, the most harmful first."""

    DELIMITER = "another delimiter"
    COLUMN_GONE = "a column gone"
    COLUMN_RENAMED = "a column renamed"
    TYPE = "another type"
    WHITE_SPACE = "white space around cells"
    LETTER_CASE = "another letter case"
    WRITTEN = "written otherwise"
    LENGTH = "another length"
    NEW_VALUE = "values never seen"
    SCALE = "numbers of another size"
    MORE_PARTS = "more parts than ever"
    FOLLOWS = "a column that does not follow any more"
    KEY = "a key that repeats"
    NULLS = "more nulls"
    RANGE = "numbers out of range"
    TOTAL = "another total"
    SHARES = "other shares of the same values"
    ROWS = "another number of rows"
    FORMAT = "another format"
    ENCODING = "another encoding"
    QUOTING = "other quotes"
    COLUMN_NEW = "a column more"
    MOVED = "columns in another order"


@dataclass(frozen=True)
class Drift:
    """One finding; `columns` are those it is about, by the names that the recipe knows.

    `consequences` are other differences that come from the same cause, each in a sentence.
    """

    change: Change
    message: str
    columns: tuple[str, ...] = ()
    consequences: tuple[str, ...] = ()
    signature: str = ""
    """What columns with the same cause have in common: the forms before and after."""

    @property
    def harm(self) -> int:
        return -list(Change).index(self.change)
