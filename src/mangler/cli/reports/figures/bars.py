"""Bars: nulls of each column before and after, the most frequent values, and counts in equal stretches."""

from __future__ import annotations

from collections.abc import Sequence

from mangler.cli.reports.figures.drawing import (
    BAND,
    DIM,
    GONE,
    LINE,
    OLD,
    WIDTH,
    Canvas,
    drawing,
    shorten,
    svg_of,
)
from mangler.cli.reports.page import Drawn, Listing

LINE_HEIGHT = 18.0
NAMES, ENDS = 120.0, 284.0
NAME = 19
HEIGHT = 76.0


def pairs(rows: Sequence[tuple[str, int, int]], total: tuple[int, int], alternative: str) -> Drawn:
    """Two bars for each name, before and after, as shares of all cells; hollow and filled."""
    with drawing():
        canvas = Canvas(WIDTH, len(rows) * LINE_HEIGHT + 20)
        canvas.box(NAMES, 4, 10, 5, OLD, hollow=True)
        canvas.text(NAMES + 14, 7, "as read", DIM, size=8.5)
        canvas.box(NAMES + 66, 4, 10, 5, BAND)
        canvas.text(NAMES + 80, 7, "as delivered", DIM, size=8.5)
        most = max(1e-9, *(max(b / max(total[0], 1), a / max(total[1], 1)) for _, b, a in rows))
        for index, (name, before, after) in enumerate(rows):
            y = 18 + index * LINE_HEIGHT
            canvas.text(0, y + 7, shorten(name, NAME - 1), size=10)
            for count, of, offset, colour, hollow in (
                (before, total[0], 2, OLD, True),
                (after, total[1], 8, BAND, False),
            ):
                wide = count / max(of, 1) / most * (ENDS - NAMES)
                canvas.box(NAMES, y + offset, max(wide, 1.0 if count else 0.0), 5, colour, hollow)
            share = f"{_percent(before, total[0])} → {_percent(after, total[1])}"
            canvas.text(WIDTH, y + 7, share, DIM, size=8, ha="right")
        svg = svg_of(canvas)
    listing = Listing(
        ["column", "as read", "as delivered"],
        [[name, f"{before:,}", f"{after:,}"] for name, before, after in rows],
        frozenset({1, 2}),
        f"Null cells, of {total[0]:,} rows read and {total[1]:,} delivered",
    )
    return Drawn(svg, alternative, listing)


def _percent(count: int, of: int) -> str:
    if not count or not of:
        return "0"
    share = 100 * count / of
    return f"{share:.0f}%" if share >= 1 else "<1%"


def values(rows: Sequence[tuple[str, int]], alternative: str) -> Drawn:
    """A bar for each value, as long as its cells are many."""
    with drawing():
        canvas = Canvas(WIDTH, len(rows) * 15 + 4)
        most = max(1, *(count for _, count in rows))
        for index, (name, count) in enumerate(rows):
            y = 3 + index * 15
            canvas.text(0, y + 6, shorten(name, NAME + 1), size=10)
            canvas.box(NAMES + 14, y + 2, max(1.0, count / most * (ENDS - NAMES - 14)), 8, BAND)
            canvas.text(ENDS + 5, y + 6, f"{count:,}", DIM, size=8.5)
        svg = svg_of(canvas)
    listing = Listing(["value", "cells"], [[name, f"{count:,}"] for name, count in rows], frozenset({1}))
    return Drawn(svg, alternative, listing)


def stretches(
    counts: Sequence[int],
    ends: tuple[str, str],
    listing: Listing,
    alternative: str,
    odd: bool = False,
) -> Drawn:
    """Columns side by side, one for each stretch; `ends` are the first and the last place. `odd`: of what is amiss."""
    with drawing():
        canvas = Canvas(WIDTH, HEIGHT)
        most, wide = max(1, *counts), WIDTH / max(1, len(counts))
        base = HEIGHT - 16
        for index, count in enumerate(counts):
            if count:
                high = max(1.0, count / most * (base - 12))
                canvas.box(index * wide + 0.5, base - high, max(wide - 1, 1.0), high, GONE if odd else BAND)
        canvas.line([0, WIDTH], [base, base], LINE)
        canvas.text(0, base + 9, shorten(ends[0], 24), DIM, size=8.5)
        canvas.text(WIDTH, base + 9, shorten(ends[1], 24), DIM, size=8.5, ha="right")
        canvas.text(WIDTH, 6, f"at most {most:,}", DIM, size=8.5, ha="right")
        svg = svg_of(canvas)
    return Drawn(svg, alternative, listing)
