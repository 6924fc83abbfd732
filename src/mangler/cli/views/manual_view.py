"""Pages of the reference on the screen: plain when piped, with a little weight and colour on a terminal."""

from __future__ import annotations

import re
import textwrap
from collections.abc import Iterator
from itertools import zip_longest

from rich.cells import cell_len
from rich.console import Console
from rich.text import Text

WIDEST = 100
NARROWEST, LONGEST_ALIGNED = 18, 26
"""Characters before the sentences of entries: the least, and the longest word that makes more room."""
ENTRY = re.compile(r"- `([^`]*)`: ?(.*)", re.DOTALL)


def show_page(console: Console, page: str) -> None:
    width = min(console.width, WIDEST)
    words = [len(match.group(1)) for match in map(ENTRY.match, page.split("\n")) if match]
    indent = 2 + max([NARROWEST, *(length + 2 for length in words if length <= LONGEST_ALIGNED)])
    code: list[str] | None = None
    for block in _blocks(page):
        if block.startswith("```"):
            if code:
                _show_code(console, code)
            code = [] if code is None else None
        elif code is not None:
            code.append(block)
        elif block.startswith("#"):
            console.print(Text(block.lstrip("# "), style="bold"), soft_wrap=True)
        elif block.startswith("- "):
            _show_entry(console, block, width, indent)
        else:
            for line in textwrap.wrap(_plain(block), width) or [""]:
                console.print(Text(line), soft_wrap=True)


def _blocks(page: str) -> Iterator[str]:
    """Paragraphs and list entries as one line each; lines of code as they are."""
    in_code, open_block = False, ""
    for line in page.rstrip("\n").split("\n"):
        if line.startswith("```"):
            in_code = not in_code
        starts = in_code or line == "" or line.startswith(("#", "- ", "```"))
        if not starts:
            open_block = f"{open_block} {line.strip()}".strip()
            continue
        if open_block:
            yield open_block
            open_block = ""
        if line.startswith("- ") and not in_code:
            open_block = line
        else:
            yield line
    if open_block:
        yield open_block


def _show_entry(console: Console, entry: str, width: int, indent: int) -> None:
    """An entry's word stands out, and its sentence is aligned with the others; without a word a mark is before it.

    The sentence of a word that is too long for that starts in the next line.
    """
    match = ENTRY.match(entry)
    word = match.group(1) if match else ""
    sentence = _plain(match.group(2) if match else entry[2:])
    indent = indent if word else 4
    head = f"  {word}".ljust(indent) if word else "  · "
    if word and len(word) + 3 > indent:
        console.print(Text(head, style="bold cyan"), soft_wrap=True)
        head = " " * indent
    for number, line in enumerate(textwrap.wrap(sentence, width - indent) or [""]):
        text = Text(head if number == 0 else " " * indent, style="bold cyan" if word and number == 0 else "")
        text.append(line, style="not bold default")
        console.print(text, soft_wrap=True)


def _plain(text: str) -> str:
    """Without the marks of Markdown's code."""
    return text.replace("`", "")


def _wrapped(line: str, width: int) -> list[str]:
    """A line of code, broken between words where it is too wide; what goes on is indented."""
    return textwrap.wrap(
        line, max(20, width), subsequent_indent="    ", break_long_words=False, break_on_hyphens=False
    ) or [line]


def _show_code(console: Console, lines: list[str]) -> None:
    """A usage line or a statement as it is; under an example's statement its tables, side by side."""
    if "test" not in lines:
        for line in lines:
            for part in _wrapped(line, console.width - 5):
                console.print(Text(f"    {part}", style="green"), soft_wrap=True)
        return
    middle, start = lines.index("  becomes"), lines.index("test")
    for line in lines[: start - 1]:
        console.print(Text(f"    {line}", style="green"), soft_wrap=True)
    before, after = ([line[2:] for line in part] for part in (lines[start + 1 : middle], lines[middle + 1 :]))
    width = max(map(cell_len, before))
    for number, (left, right) in enumerate(zip_longest(before, after, fillvalue="")):
        text = Text(f"      {left}{' ' * (width - cell_len(left))}")
        text.append("   becomes   " if number == 0 else " " * 13, style="dim")
        text.append(right)
        text.rstrip()
        console.print(text, soft_wrap=True)
