"""Rows on their way through the steps, as a band: its width is their number; what leaves it and what joins it."""

from __future__ import annotations

from collections.abc import Sequence

from mangler.cli.reports.figures.drawing import (
    ASIDE,
    BAND,
    DIM,
    GONE,
    NEW,
    WIDTH,
    Canvas,
    drawing,
    shorten,
    svg_of,
)
from mangler.cli.reports.page import Drawn, Listing
from mangler.late_dataclass import dataclass

ROOM = 210.0
"""Points that the widest band takes; the rest is for words."""
HEAD, BODY = 18.0, 24.0
MOST_STAGES = 24
LABEL = 44


@dataclass(frozen=True)
class Stage:
    """What one step did to the number of rows."""

    label: str
    rows_in: int
    rows_out: int
    dropped: int = 0
    merged: int = 0
    aside: int = 0
    added: int = 0

    @property
    def kept(self) -> int:
        return self.rows_in - self.dropped - self.merged - self.aside

    @property
    def is_plain(self) -> bool:
        return not (self.dropped or self.merged or self.aside or self.added)


def rows_band(stages: Sequence[Stage]) -> Drawn:
    """The band from the rows that were read to those that were delivered; steps that keep all rows are left out."""
    shown = [stage for index, stage in enumerate(stages) if not index or not stage.is_plain]
    left_out = max(0, len(shown) - MOST_STAGES)
    shown = shown[:MOST_STAGES]
    with drawing():
        svg = svg_of(_canvas(shown, stages[-1].rows_out))
    last = stages[-1].rows_out
    alternative = f"Of {stages[0].rows_in:,} rows read, {last:,} came out of the steps. {_told(stages)}"
    alternative += f" {left_out} more steps that change the number of rows are in the table." * bool(left_out)
    rows = [
        [one.label, *(f"{count:,}" if count else "" for count in _counts(one))]
        for index, one in enumerate(stages)
        if not index or not one.is_plain
    ]
    heads = ["step", "rows in", "dropped", "merged", "set aside", "added", "rows out"]
    used = [0, 1, *(i for i in range(2, 6) if any(row[i] for row in rows)), 6]
    listing = Listing(
        [heads[i] for i in used],
        [[row[i] for i in used] for row in rows],
        frozenset(range(1, len(used))),
        "Steps that change the number of rows",
    )
    return Drawn(svg, alternative.strip(), listing)


def _counts(one: Stage) -> tuple[int, ...]:
    return one.rows_in, one.dropped, one.merged, one.aside, one.added, one.rows_out


def _told(stages: Sequence[Stage]) -> str:
    totals = [
        f"{count:,} {word}"
        for word in ("dropped", "merged", "aside", "added")
        if (count := sum(getattr(stage, word) for stage in stages))
    ]
    told = ", ".join(totals).replace("aside", "set aside")
    return f"On the way: {told}." if told else "No row left or joined on the way."


def _canvas(stages: Sequence[Stage], delivered: int) -> Canvas:
    canvas = Canvas(WIDTH, len(stages) * (HEAD + BODY) + HEAD + 12)
    most = max(1, *(max(stage.rows_in, stage.rows_out) for stage in stages))
    y = 4.0
    for stage in stages:
        canvas.text(0, y + HEAD / 2, shorten(stage.label, LABEL), DIM, size=10)
        _body(canvas, stage, y + HEAD, most)
        y += HEAD + BODY
    canvas.text(0, y + HEAD / 2, f"{delivered:,} rows came out", weight="bold", size=10.5)
    return canvas


def _body(canvas: Canvas, stage: Stage, y: float, most: int) -> None:
    def wide(rows: int) -> float:
        return max(1.5, rows / most * ROOM) if rows else 0.0

    kept = wide(stage.kept)
    canvas.box(0, y, kept, BODY, BAND)
    at, labels = kept, []
    for rows, word, colour in (
        (stage.aside, "set aside", ASIDE),
        (stage.dropped, "dropped", GONE),
        (stage.merged, "merged", GONE),
    ):
        if rows:
            _slope(canvas, (at, at + wide(rows)), y, y + BODY, colour)
            at += wide(rows)
            labels.append(f"− {rows:,} {word}")
    if stage.added:
        _slope(canvas, (kept, kept + wide(stage.added)), y + BODY, y, NEW)
        labels.append(f"+ {stage.added:,} added")
    labels = labels or [f"{stage.rows_out:,} rows"]
    step = BODY / len(labels)
    for index, text in enumerate(labels):
        canvas.text(ROOM + 16, y + step * (index + 0.5), text, size=10 if len(labels) < 3 else 8)


def _slope(
    canvas: Canvas, across: tuple[float, float], wide_at: float, closed_at: float, colour: str
) -> None:
    """A part of the band that ends, or begins: as wide as its rows at one side, and nothing at the other."""
    left, right = across
    middle = (wide_at + closed_at) / 2
    points = [
        (left, wide_at),
        (right, wide_at),
        (right, middle),
        (left, middle),
        (left, closed_at),
        (left, wide_at),
    ]
    canvas.shape(points, [1, 2, 4, 4, 4, 79], colour)
