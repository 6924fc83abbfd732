"""One count over past runs, small: a point for each run, the first and the last of them labelled."""

from __future__ import annotations

from collections.abc import Sequence

from mangler.cli.reports.figures.drawing import (
    BAND,
    DIM,
    LINE,
    PAPER,
    WIDTH,
    Canvas,
    drawing,
    shorten,
    svg_of,
)
from mangler.cli.reports.page import Drawn, Listing

HEIGHT, TOP, BASE = 92.0, 18.0, 70.0


def over_runs(
    labels: Sequence[str],
    counts: Sequence[float],
    written: Sequence[str],
    alternative: str,
    head: str,
) -> Drawn:
    """`written` are the counts as they are to be read; the scale starts at 0."""
    with drawing():
        canvas = Canvas(WIDTH, HEIGHT)
        most = max(1e-12, *counts)
        wide = (WIDTH - 12) / max(1, len(counts) - 1)
        xs = [6 + index * wide for index in range(len(counts))]
        ys = [BASE - count / most * (BASE - TOP) for count in counts]
        canvas.line([0, WIDTH], [BASE, BASE], LINE)
        canvas.line(xs, ys, BAND, linewidth=1.5)
        if len(counts) <= 60:
            canvas.axes.plot(
                xs, ys, "o", color=BAND, markersize=4, markeredgecolor=PAPER, markeredgewidth=0.6
            )
        canvas.text(0, 7, f"first {written[0]}", DIM, size=9)
        canvas.text(WIDTH, 7, f"last {written[-1]}", size=9, ha="right")
        canvas.text(0, BASE + 12, shorten(labels[0], 26), DIM, size=8.5)
        if len(labels) > 1:
            canvas.text(WIDTH, BASE + 12, shorten(labels[-1], 26), DIM, size=8.5, ha="right")
        svg = svg_of(canvas)
    rows = [[label, text] for label, text in zip(labels, written, strict=True)]
    return Drawn(svg, alternative, Listing(["run", head], rows, frozenset({1})))
