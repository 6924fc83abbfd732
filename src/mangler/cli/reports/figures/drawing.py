"""What all figures share: Matplotlib without a screen, the colours of the page, and SVG that is the same each time."""

from __future__ import annotations

import io
import re
import warnings
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

WIDTH = 340.0
"""Points, which are pixels in a browser: what fits on a phone without being made smaller."""
INK, DIM, PAPER, LINE = "#010101", "#010102", "#010103", "#010104"
BAND, GONE, ASIDE, NEW, OLD = "#010105", "#010106", "#010107", "#010108", "#010109"
COLOURS = {
    INK: "ink",
    DIM: "dim",
    PAPER: "paper",
    LINE: "line",
    BAND: "band",
    GONE: "gone",
    ASIDE: "aside",
    NEW: "new",
    OLD: "old",
}
"""Colours that stand for those of the page, which has a light and a dark set."""
LIGHT = {
    "ink": "#1d1b18",
    "dim": "#5c5750",
    "paper": "#ffffff",
    "line": "#d8d3ca",
    "band": "#4b6f8f",
    "gone": "#b4532a",
    "aside": "#8d2f74",
    "new": "#2f7d4f",
    "old": "#a8a196",
}
"""The light ones, for a figure in a file of its own."""
SETTINGS: Any = {
    "svg.fonttype": "none",
    "svg.hashsalt": "mangler",
    "font.family": "DejaVu Sans",
    "font.size": 10,
    "text.color": INK,
    "text.parse_math": False,
    "text.usetex": False,
    "axes.edgecolor": LINE,
    "axes.labelcolor": DIM,
    "axes.unicode_minus": False,
    "xtick.color": DIM,
    "ytick.color": DIM,
}
FONT = re.compile(r"font: ([^;\"]*?)'DejaVu Sans'[^;\"]*")
ABOUT = re.compile(r"<metadata>.*?</metadata>\n?", re.DOTALL)
IDENTITY = re.compile(r'\b(id="|xlink:href="#|href="#|url\(#)')


class Canvas:
    """A figure of one pair of axes whose units are points, from the top left corner on; without any frame."""

    def __init__(self, width: float, height: float) -> None:
        from matplotlib.figure import Figure

        self.width, self.height = width, height
        self.figure = Figure(figsize=(width / 72, height / 72), facecolor="none")
        self.axes: Any = self.figure.add_axes((0, 0, 1, 1))
        self.axes.set_xlim(0, width)
        self.axes.set_ylim(height, 0)
        self.axes.axis("off")

    def text(self, x: float, y: float, text: str, colour: str = INK, **how: Any) -> None:
        self.axes.text(x, y, text, color=colour, **{"va": "center", "parse_math": False, **how})

    def box(self, x: float, y: float, width: float, height: float, colour: str, hollow: bool = False) -> None:
        """A filled rectangle, or its outline."""
        from matplotlib.patches import Rectangle

        self.axes.add_patch(
            Rectangle(
                (x, y),
                width,
                height,
                facecolor="none" if hollow else colour,
                edgecolor=colour if hollow else "none",
                linewidth=1 if hollow else 0,
            )
        )

    def shape(self, points: list[tuple[float, float]], codes: list[int], colour: str) -> None:
        """A filled shape of lines and curves, as Matplotlib's paths have them."""
        from matplotlib.patches import PathPatch
        from matplotlib.path import Path

        self.axes.add_patch(PathPatch(Path(points, codes), facecolor=colour, edgecolor="none", linewidth=0))

    def line(self, xs: list[float], ys: list[float], colour: str = LINE, **how: Any) -> None:
        self.axes.plot(xs, ys, color=colour, **{"linewidth": 1, "solid_capstyle": "butt", **how})


@contextmanager
def drawing() -> Iterator[None]:
    """Within it figures are drawn in the settings of reports, whatever the user's own are."""
    import logging

    import matplotlib

    logging.getLogger("matplotlib").setLevel(
        logging.ERROR
    )  # that it makes its list of fonts is of no interest

    with matplotlib.rc_context(), warnings.catch_warnings():
        warnings.simplefilter(
            "ignore", UserWarning
        )  # of letters that the measuring font lacks: the browser has them
        matplotlib.rcdefaults()
        matplotlib.rcParams.update(SETTINGS)
        yield


def svg_of(canvas: Canvas) -> str:
    """The figure as an SVG element of a page."""
    text = _svg(canvas)
    text = text[text.index("<svg") :]
    for colour, name in COLOURS.items():
        text = text.replace(colour, f"var(--{name})")
    return text.replace("<svg ", '<svg aria-hidden="true" focusable="false" ', 1)


def numbered(svg: str, number: int) -> str:
    """The figure with names of its parts that no other figure of the page has."""
    return IDENTITY.sub(rf"\g<1>f{number}-", svg)


def svg_file_of(canvas: Canvas) -> str:
    """The figure as a file of its own, in the light colours."""
    text = _svg(canvas)
    for colour, name in COLOURS.items():
        text = text.replace(colour, LIGHT[name])
    return text


def _svg(canvas: Canvas) -> str:
    out = io.StringIO()
    canvas.figure.savefig(out, format="svg", metadata={"Date": None, "Creator": None})
    return FONT.sub(r"font: \1system-ui, sans-serif", ABOUT.sub("", out.getvalue()))


def shorten(text: str, most: int) -> str:
    return text if len(text) <= most else text[: most - 1] + "…"
