"""A report as Markdown, for a pull request or a chat: the same facts, figures as their numbers."""

from __future__ import annotations

import re
from collections.abc import Iterator

from mangler.cli.reports.page import (
    SIGNS,
    Block,
    Cards,
    CellText,
    Code,
    Drawn,
    Facts,
    Listing,
    Page,
    Paragraph,
    Points,
    Section,
    Tone,
)

SPECIAL = re.compile(r"([\\`*_{}\[\]<>#|~$&!])")
"""What Markdown, or a chat, may take for more than a character."""
MENTION = re.compile(r"@(?=\w)|(?<=\w)@")
LINK = re.compile(r"(?i)\b(https?|ftp|mailto|www)([:.])")
AT_START = re.compile(r"^(\s*)([-+=]|\d+[.)])")


def to_markdown(page: Page) -> str:
    """The report as Markdown with tables; whatever comes from cells stands for itself."""
    lines = [f"# {_text(page.title)}", "", f"**{_text(_signed(page.verdict, page.tone))}**", ""]
    for section in page.sections:
        lines += _section(section, 2)
    if page.made_by:
        lines += ["---", "", f"Made by {_code(page.made_by)}", ""]
    return "\n".join(lines)


def _section(section: Section, level: int) -> Iterator[str]:
    yield f"{'#' * level} {_text(section.title)}"
    yield ""
    for block in section.blocks:
        yield from _block(block, level)


def _block(block: Block, level: int) -> Iterator[str]:
    if isinstance(block, Cards):
        for card in block.cards:
            yield from _section(card, level + 1)
        return
    if isinstance(block, Drawn):
        yield _text(block.alternative)
        yield ""
        yield from _listing(block.numbers)
    elif isinstance(block, Listing):
        yield from _listing(block)
    elif isinstance(block, Paragraph):
        yield _text(_signed(block.text, block.tone))
    elif isinstance(block, Points):
        yield from (f"- {_text(_signed(one, block.tone))}" for one in block.messages)
    elif isinstance(block, Facts):
        yield from (f"- {_text(name)}: {_cell(value)}" for name, value in block.facts)
    elif isinstance(block, Code):
        fence = "`" * max(3, 1 + max(map(len, re.findall("`+", block.text)), default=0))
        if block.folded:
            yield f"{_text(block.folded)}:"
            yield ""
        yield fence
        yield from block.text.rstrip("\n").split("\n")
        yield fence
    yield ""


def _listing(listing: Listing) -> Iterator[str]:
    if listing.caption:
        yield _text(listing.caption)
        yield ""
    yield f"| {' | '.join(_text(head) for head in listing.heads)} |"
    yield f"|{'|'.join('---:' if i in listing.numeric else '---' for i in range(len(listing.heads)))}|"
    for row in listing.rows:
        yield f"| {' | '.join(map(_cell, row))} |"


def _cell(cell: CellText) -> str:
    return _text(cell if isinstance(cell, str) else "".join(piece.text for piece in cell))


def _signed(text: str, tone: Tone) -> str:
    return f"{SIGNS[tone]} {text}" if SIGNS[tone] else text


def _text(text: str) -> str:
    text = SPECIAL.sub(r"\\\1", text.replace("\n", " ").replace("\r", " "))
    # An invisible joiner keeps a chat from calling a person, and from making a link of a cell.
    text = LINK.sub("\\1\u2060\\2", MENTION.sub("@\u2060", text))
    return AT_START.sub(r"\1\\\2", text)


def _code(text: str) -> str:
    ticks = "`" * (1 + max(map(len, re.findall("`+", text)), default=0))
    return f"{ticks} {text} {ticks}" if "`" in text else f"{ticks}{text}{ticks}"
