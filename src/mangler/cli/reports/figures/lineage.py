"""Columns of the extract at the left, those of the output at the right, and lines between them."""

from __future__ import annotations

from mangler.cli.reports.cells import name
from mangler.cli.reports.figures.drawing import (
    BAND,
    DIM,
    GONE,
    INK,
    LINE,
    NEW,
    Canvas,
    drawing,
    shorten,
    svg_file_of,
)
from mangler.insight.explanation.explanation import Explanation

WIDE, ROW, TOP = 720.0, 22.0, 46.0
LEFT, RIGHT = 185.0, 385.0
MOST_COLUMNS = 150
LABEL, LINES = 26, 22


def lineage_file(told: Explanation) -> str:
    """The picture as an SVG file."""
    outputs = told.outputs[:MOST_COLUMNS]
    files = list(dict.fromkeys(file for one in outputs for file in one.files))
    shown = {source for output in outputs for source in output.sources}
    used = [one for one in told.columns if one in shown]
    ended = [one for one in told.columns if one not in shown]
    sources = [*used[:MOST_COLUMNS], *ended[: max(0, MOST_COLUMNS - len(used))]]
    rows = max(len(sources) + len(files), len(outputs), 1)
    apart = ROW * rows / max(1, len(sources) + len(files))
    at = {source: TOP + apart * (index + 0.5) for index, source in enumerate(sources)}
    file_at = {file: TOP + apart * (len(sources) + index + 0.5) for index, file in enumerate(files)}
    with drawing():
        canvas = Canvas(WIDE, TOP + ROW * rows + 26)
        canvas.box(0, 0, WIDE, canvas.height, "#ffffff")
        canvas.text(LEFT - 12, 24, f"extract: {len(told.columns):,} columns", DIM, size=10, ha="right")
        canvas.text(
            RIGHT + 12,
            24,
            f"output: {len(told.outputs):,} columns, and the lines that worked on them",
            DIM,
            size=10,
        )
        for index, output in enumerate(outputs):
            y = TOP + ROW * (index + 0.5)
            for source in output.sources:
                if source in at:
                    _thread(canvas, at[source], y, BAND)
            for file in output.files:
                _thread(canvas, file_at[file], y, NEW)
            lines = ", ".join(dict.fromkeys(told.told[step].label for step in output.steps))
            canvas.text(RIGHT + 12, y, shorten(name(output.name), LABEL), size=10.5)
            canvas.text(WIDE - 8, y, shorten(lines, LINES), DIM, size=9, ha="right")
            canvas.line([RIGHT, RIGHT + 6], [y, y], LINE)
        for source, y in at.items():
            where = f" gone: line {told.told[told.ended[source]].label}" if source in told.ended else ""
            colour = INK if source in shown else GONE
            canvas.text(LEFT - 12, y, shorten(name(source), LABEL) + where, colour, size=10.5, ha="right")
        for file, y in file_at.items():
            canvas.text(LEFT - 12, y, shorten(f"file {name(file)}", LABEL), size=10.5, ha="right")
        hidden = len(told.outputs) - len(outputs)
        if hidden or len(told.columns) > len(sources):
            canvas.text(8, canvas.height - 14, f"the first {MOST_COLUMNS} columns of each side", DIM, size=9)
        return svg_file_of(canvas)


def _thread(canvas: Canvas, start: float, end: float, colour: str) -> None:
    from matplotlib.patches import PathPatch
    from matplotlib.path import Path

    middle = (LEFT + RIGHT) / 2
    points = [(LEFT - 6, start), (middle, start), (middle, end), (RIGHT, end)]
    canvas.axes.add_patch(
        PathPatch(Path(points, [1, 4, 4, 4]), facecolor="none", edgecolor=colour, linewidth=1.2)
    )
