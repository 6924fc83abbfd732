"""Pages of the reference on the screen: plain when piped, with a little weight and colour on a terminal."""

from __future__ import annotations

import re
import textwrap
from collections.abc import Iterator

from rich.console import Console
from rich.text import Text

WIDEST = 100


def show_page(console: Console, page: str) -> None:
    width = min(console.width, WIDEST)
    in_code = False
    for block in _blocks(page):
        if block.startswith("```"):
            in_code = not in_code
        elif in_code:
            console.print(Text(f"    {block}", style=_code_style(block)), soft_wrap=True)
        elif block.startswith("#"):
            console.print(Text(block.lstrip("# "), style="bold"), soft_wrap=True)
        elif block.startswith("- "):
            _show_entry(console, block, width)
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


def _show_entry(console: Console, entry: str, width: int) -> None:
    """`- \\`word\\`: sentence` with the word standing out; other entries with a mark before them."""
    match = re.match(r"- `([^`]*)`(:?) ?(.*)", entry, re.DOTALL)
    if match and match.group(2):
        word, sentence = match.group(1), _plain(match.group(3))
        head = f"  {word:<18}"
        if len(word) > 17:
            head = f"  {word}  "
    else:
        word, sentence, head = "", _plain(entry[2:]), "  · "
    lines = textwrap.wrap(sentence, width - 20 if word else width - 4) or [""]
    for number, line in enumerate(lines):
        indent = head if number == 0 else " " * (20 if word else 4)
        text = Text(indent, style="bold cyan" if word and number == 0 else "")
        text.append(line, style="not bold default")
        console.print(text, soft_wrap=True)


def _plain(text: str) -> str:
    """Without the marks of Markdown's code."""
    return text.replace("`", "")


def _code_style(line: str) -> str:
    return (
        "dim" if line.strip() in ("test", "becomes") else "green" if line and not line.startswith(" ") else ""
    )
