"""Small tables as they stand in a recipe's tests and in the reference.

Cells are separated by `|` and taken without the blanks around them. A cell that starts with a quote is a text
with escapes; an empty cell or `null` is null, `""` is empty.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from mangler.language.cursor import Cursor
from mangler.language.literals import read_text
from mangler.language.source import Source


@dataclass(frozen=True)
class SmallTable:
    """Heads as written, and rows of texts, None for null."""

    heads: tuple[str, ...]
    rows: tuple[tuple[str | None, ...], ...]


def read_small_table(source: Source, start: int = 0, end: int | None = None) -> SmallTable:
    """Reads the lines between two offsets. A row with other than the head's number of cells is a mistake."""
    stop = len(source.text) if end is None else end
    lines: list[tuple[str | None, ...]] = []
    offset = start
    while offset < stop:
        line_end = source.text.find("\n", offset, stop)
        line_end = stop if line_end < 0 else line_end
        if source.text[offset:line_end].strip():
            cells = _read_cells(source, offset, line_end)
            if lines and len(cells) != len(lines[0]):
                raise Cursor(source, offset, line_end).mistake(
                    f"this row has {len(cells)} cells, and the head has {len(lines[0])}",
                    "An empty cell is null; separate cells with |.",
                )
            lines.append(cells)
        offset = line_end + 1
    heads = tuple(cell or "" for cell in lines[0]) if lines else ()
    return SmallTable(heads, tuple(lines[1:]))


def spell_small_table(heads: Sequence[str], rows: Sequence[Sequence[str | None]]) -> list[str]:
    """The lines of a table, its columns lined up."""
    spelled = [list(heads), *([spell_cell(cell) for cell in row] for row in rows)]
    widths = [max(map(len, column)) for column in zip(*spelled, strict=True)]
    return [
        " | ".join(cell.ljust(width) for cell, width in zip(row, widths, strict=True)).rstrip()
        for row in spelled
    ]


def spell_cell(cell: str | None) -> str:
    """A cell as a table holds it: plain where that is read back the same, else a text with escapes."""
    if cell is None:
        return "null"
    plain = cell.strip() == cell and cell not in ("", "null") and cell.isprintable()
    if plain and not cell.startswith(('"', "'")) and "|" not in cell and "#" not in cell:
        return cell
    escaped = cell.replace("\\", "\\\\").replace('"', '\\"').replace("{", "\\{")
    escaped = escaped.replace("\n", "\\n").replace("\t", "\\t").replace("\r", "\\r")
    escaped = "".join(c if c.isprintable() else f"\\u{{{ord(c):04X}}}" for c in escaped)
    return f'"{escaped}"'


def _read_cells(source: Source, start: int, end: int) -> tuple[str | None, ...]:
    cells: list[str | None] = []
    cursor = Cursor(source, start, end)
    while True:
        text = source.text
        while cursor.offset < end and text[cursor.offset] == " ":
            cursor.offset += 1
        if text.startswith('"', cursor.offset, end):
            cells.append(read_text(cursor).value)
            while cursor.offset < end and text[cursor.offset] == " ":
                cursor.offset += 1
            stop = cursor.offset
        else:
            stop = text.find("|", cursor.offset, end)
            stop = end if stop < 0 else stop
            plain = text[cursor.offset : stop].strip()
            cells.append(None if plain in ("", "null") else plain)
        if stop >= end:
            return tuple(cells)
        if text[stop] != "|":
            raise cursor.mistake("| is expected after a text", "Cells are separated by |.")
        cursor.offset = stop + 1
