"""A report as one HTML file that needs nothing else: no script, no font, no picture from elsewhere."""

from __future__ import annotations

import re
from functools import cache
from importlib.resources import files
from itertools import count
from typing import Any

from mangler.cli.reports.figures.drawing import numbered
from mangler.cli.reports.page import SIGNS, Cards, Code, Drawn, Facts, Listing, Page, Paragraph, Points

UNFIT = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f\ufdd0-\ufdef\ufffe\uffff\ud800-\udfff]")
"""Characters that a page may not have; whatever comes from cells was made visible before."""

WHOLE = 16
"""Characters of a cell in which no word is broken, however narrow its column."""


def to_html(page: Page) -> str:
    """The report as a page. Everything in it is escaped but the figures, which are Mangler's own drawing."""
    from markupsafe import Markup

    numbers = count(1)

    def drawing(svg: str) -> Markup:
        return Markup(numbered(svg, next(numbers)))

    template = _environment().get_template("page.html")
    return UNFIT.sub("\ufffd", template.render(page=page, signs=SIGNS, drawing=drawing)) + "\n"


@cache
def _environment() -> Any:
    """Jinja2, with its templates; it is loaded for a report only."""
    from jinja2 import DictLoader, Environment, StrictUndefined
    from markupsafe import Markup

    folder = files("mangler.cli.reports") / "templates"
    texts = {
        one.name: one.read_text("utf-8") for one in folder.iterdir() if one.name.endswith((".html", ".css"))
    }
    environment = Environment(
        loader=DictLoader(texts),
        autoescape=True,
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
    )
    environment.tests.update({kind.__name__.lower(): _is(kind) for kind in KINDS})
    environment.tests["plain"] = lambda cell: isinstance(cell, str)
    environment.tests["word"] = lambda cell: isinstance(cell, str) and len(cell) <= WHOLE
    environment.globals["style"] = Markup(texts["page.css"])
    return environment


KINDS = (Listing, Drawn, Paragraph, Points, Facts, Code, Cards)


def _is(kind: type) -> Any:
    return lambda block: isinstance(block, kind)
