"""Cells and changes as pieces of a report: what the screen shows in colour, with the same marks."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

from rich.text import Text

from mangler.cli.reports.page import Mark, Piece
from mangler.cli.shown import shown
from mangler.cli.views.cells import visible
from mangler.cli.views.marks import LEFT_STYLE, RIGHT_STYLE, come, marked, removed

LONGEST_CELL = 80
LONGEST_HEAD = 16
LONGEST_MESSAGE = 600
MARKS = {LEFT_STYLE: Mark.REMOVED, RIGHT_STYLE: Mark.CAME, "cyan": Mark.UNSEEN, "dim": Mark.FAINT}


def pieces_of(text: Text) -> list[Piece]:
    """A text for the screen in pieces of one style each."""
    ends = sorted({0, len(text.plain), *(at for span in text.spans for at in (span.start, span.end))})
    pieces: list[Piece] = []
    for start, end in pairwise(ends):
        styles = [str(span.style) for span in text.spans if span.start <= start and end <= span.end]
        mark = next(
            (MARKS[style] for style in [*styles[::-1], str(text.style)] if style in MARKS), Mark.NOTHING
        )
        if pieces and pieces[-1].mark is mark:
            pieces[-1] = Piece(pieces[-1].text + text.plain[start:end], mark)
        elif start < end:
            pieces.append(Piece(text.plain[start:end], mark))
    return pieces


def cell(value: str | None, longest: int = LONGEST_CELL) -> list[Piece]:
    """A cell in one line, cut where it is long; null and what nobody would see are told apart."""
    return pieces_of(visible(value, longest))


def name(value: str) -> str:
    """The name of a column, a file or the like, as plain text."""
    return visible(value, LONGEST_CELL).plain if value else '""'


def head(value: str) -> str:
    """The name of a column over cells, short enough for several side by side."""
    return visible(value, LONGEST_HEAD).plain if value else '""'


def change(before: str | None, after: str | None) -> tuple[list[Piece], list[Piece]]:
    """A cell before and after, with the difference marked."""
    one, other = marked(before, after)
    return pieces_of(one), pieces_of(other)


def gone(value: str | None) -> list[Piece]:
    return pieces_of(removed(value))


def new(value: str | None) -> list[Piece]:
    return pieces_of(come(value))


def message(text: str) -> str:
    """A sentence that may hold cells: everything in it can be seen, and it is not too long to be read."""
    clean = shown(text[: LONGEST_MESSAGE * 2].replace("\n", " ").replace("\t", " "))
    return clean if len(clean) <= LONGEST_MESSAGE else clean[: LONGEST_MESSAGE - 1] + "…"


def number(count: float | int | None) -> str:
    return "" if count is None else f"{count:,}"


def plain(text: str | Sequence[Piece]) -> str:
    """The characters alone."""
    return text if isinstance(text, str) else "".join(piece.text for piece in text)
