"""What may be wrong with a column, and the steps that would fix it."""

from __future__ import annotations

from dataclasses import field
from enum import StrEnum

from mangler.late_dataclass import dataclass


class Kind(StrEnum):
    """What is found, the most harmful first: what makes results wrong before what is only in the way."""

    NULL_WORDS = "null words"
    LETTER_CASE = "letter case"
    NEAR_VARIANTS = "near variants"
    OUTER_SPACE = "white space outside"
    INNER_SPACE = "white space inside"
    UNUSUAL_SPACE = "unusual white space"
    OUTLIERS = "outliers"
    DATES = "dates as text"
    NUMBERS = "numbers as text"
    BOOLEANS = "booleans as text"
    LISTS = "several values in a cell"
    PAIRS = "pairs in a cell"
    EMPTY_TEXTS = "empty texts"
    LEADING_ZEROS = "leading zeros"

    @property
    def harm(self) -> int:
        """Three where groups, counts and sums come out wrong, one where nothing is wrong if nobody converts."""
        return HARM[self]


HARM = {
    Kind.NULL_WORDS: 3,
    Kind.LETTER_CASE: 3,
    Kind.NEAR_VARIANTS: 3,
    Kind.OUTER_SPACE: 3,
    Kind.INNER_SPACE: 3,
    Kind.UNUSUAL_SPACE: 3,
    Kind.OUTLIERS: 2,
    Kind.DATES: 2,
    Kind.NUMBERS: 2,
    Kind.BOOLEANS: 2,
    Kind.LISTS: 2,
    Kind.PAIRS: 2,
    Kind.EMPTY_TEXTS: 1,
    Kind.LEADING_ZEROS: 1,
}


@dataclass(frozen=True)
class Finding:
    """Something that `cells` cells of a column have. `message` says what, `question` what a person must decide."""

    kind: Kind
    cells: int
    message: str
    question: str = ""
    examples: tuple[str, ...] = ()
    """Values as they are, the most frequent first."""
    is_fault: bool = True
    """Whether something is wrong; numbers that are plain except for being text are none."""
    about: bool = False
    """Whether the cells are estimated from a sample of the values."""


class Stage(StrEnum):
    """Where in a recipe a step is, in the order of the work."""

    TRIM = "white space"
    NULLIFY = "nulls"
    SPELLING = "one spelling a value"
    LISTS = "lists"
    SPLIT = "several values in one cell"
    CONVERT = "types"


@dataclass(frozen=True)
class Proposal:
    """A step that would fix something, as a recipe has it."""

    stage: Stage
    step: str
    mends: tuple[Kind, ...]
    reason: str
    question: str = ""
    """What a person must decide first."""
    cells: int = 0
    """Cells that it would change, as it did to the column's values after the steps before it."""
    failing: int = 0
    """Cells that it could do nothing with."""
    about: bool = False
    """Whether these numbers are estimated from a sample of the values."""
    examples: tuple[str, ...] = ()
    """Cells that it changes, as they come to it: of different shapes, the most frequent first."""
    untouched: str = ""
    """A cell that it leaves as it is; empty where there is none."""

    @property
    def sure(self) -> bool:
        return not self.question


class TableKind(StrEnum):
    """What is found of a table as a whole."""

    SPACED_NAMES = "white space in names"
    GIVEN_NAMES = "columns without a name"
    TOTALS = "a row of totals"
    DUPLICATES = "repeated rows"
    FLAGS = "columns of 0 and 1"
    INDEX = "a number for each row"
    KEY = "a key"
    DETERMINED = "columns that follow from another"
    CONSTANT = "columns of one value"


@dataclass(frozen=True)
class TableFinding:
    """Something about several columns, or about rows. Its step is on where it asks nothing."""

    kind: TableKind
    columns: tuple[str, ...]
    message: str
    question: str = ""
    step: str = ""
    rows: int = 0
    """Rows that it is about, where it is about rows."""


@dataclass
class Found:
    """Findings and proposals, as a finder gives them."""

    findings: list[Finding] = field(default_factory=list)
    proposals: list[Proposal] = field(default_factory=list)

    def add(self, other: Found) -> None:
        self.findings += other.findings
        self.proposals += other.proposals
