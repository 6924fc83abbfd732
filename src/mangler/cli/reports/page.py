"""What a report says, before it is known whether it becomes HTML or Markdown: a verdict, and sections of blocks."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import field
from enum import StrEnum
from typing import TypeAlias

from mangler.late_dataclass import dataclass


class Tone(StrEnum):
    """How good a message is; each has a sign of its own, so that it does not rest on colour."""

    GOOD = "good"
    LOOK = "look"
    BAD = "bad"
    PLAIN = "plain"


SIGNS: Mapping[Tone, str] = {Tone.GOOD: "✓", Tone.LOOK: "!", Tone.BAD: "✗", Tone.PLAIN: ""}


class Mark(StrEnum):
    """What is special about a piece of a cell."""

    NOTHING = ""
    REMOVED = "removed"
    CAME = "came"
    UNSEEN = "unseen"
    """A character that nobody would see, shown as a mark."""
    FAINT = "faint"


@dataclass(frozen=True)
class Piece:
    text: str
    mark: Mark = Mark.NOTHING


CellText: TypeAlias = "str | Sequence[Piece]"
"""A cell of a table of the report: plain, or in pieces."""


@dataclass(frozen=True)
class Listing:
    """A table of the report."""

    heads: Sequence[str]
    rows: Sequence[Sequence[CellText]]
    numeric: frozenset[int] = frozenset()
    """The columns that hold numbers."""
    caption: str = ""


@dataclass(frozen=True)
class Drawn:
    """A figure: an SVG element, what it shows in a sentence, and its numbers."""

    svg: str
    alternative: str
    numbers: Listing


@dataclass(frozen=True)
class Paragraph:
    text: str
    tone: Tone = Tone.PLAIN


@dataclass(frozen=True)
class Points:
    """Short messages, one line each."""

    messages: Sequence[str]
    tone: Tone = Tone.PLAIN


@dataclass(frozen=True)
class Facts:
    """Names and what they are."""

    facts: Sequence[tuple[str, CellText]]


@dataclass(frozen=True)
class Code:
    """Lines to be copied. With `folded` they are shown when the reader asks for them, under that title."""

    text: str
    folded: str = ""


@dataclass(frozen=True)
class Cards:
    """Parts that stand side by side where there is room."""

    cards: Sequence[Section]


Block: TypeAlias = "Listing | Drawn | Paragraph | Points | Facts | Code | Cards"


@dataclass(frozen=True)
class Section:
    title: str
    blocks: Sequence[Block] = ()


@dataclass(frozen=True)
class Page:
    """`title` is of the document; `verdict` is all there is to know, in one line."""

    title: str
    verdict: str
    tone: Tone
    sections: Sequence[Section] = field(default_factory=list)
    made_by: str = ""
    """The command that made the report."""
