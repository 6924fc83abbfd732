"""Small tables as they are in a recipe's tests and in the reference.

Cells are separated by `|` and taken without the blanks around them. A cell that starts with a quote is a text
with escapes; an empty cell or `null` is null, `""` is empty. A head is a column's name and, if it is to be said,
its type: `made integer`. In the table that is expected a line `aside "reason"` means a row set aside.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import field
from typing import TypeAlias

from mangler.language.cursor import Cursor
from mangler.language.literals import Text, read_name, read_text
from mangler.language.mistake import screen_width, wrong_recipe
from mangler.language.source import Source, SourceSpan
from mangler.language.spelling import spell_text
from mangler.late_dataclass import dataclass

TYPE_WORDS = ("text", "integer", "float", "decimal", "boolean", "date", "time", "timestamp", "list")
BECOMES = "becomes"
ASIDE_LINE = re.compile(r"[ \t]*aside[ \t]+[\"']")
SEPARATOR = " | "

Cell: TypeAlias = str | None


@dataclass(frozen=True)
class Head:
    """A column of a small table. `type` is empty when it was not said."""

    name: str
    type: str = ""
    span: SourceSpan = field(
        compare=False, repr=False, default_factory=lambda: SourceSpan(Source("", ""), 0, 0)
    )


@dataclass(frozen=True)
class SmallTable:
    """Rows of texts under their heads, None for null. `spelled` holds all lines as written, cell by cell."""

    heads: tuple[Head, ...]
    rows: tuple[tuple[Cell, ...], ...]
    spelled: tuple[tuple[str, ...], ...] = field(compare=False, repr=False, default=())
    asides: tuple[str, ...] = ()
    """The reasons of the rows that are expected to be set aside, in their order."""
    aside_lines: tuple[tuple[int, str], ...] = field(compare=False, repr=False, default=())
    """Before which of the spelled lines each of them is, and how it is spelled."""

    @property
    def names(self) -> tuple[str, ...]:
        return tuple(head.name for head in self.heads)


def read_small_table(
    source: Source, start: int = 0, end: int | None = None, is_result: bool = False
) -> SmallTable:
    """Reads the lines between two offsets. A row with other than the head's number of cells is a mistake.

    Only a table that is expected as a result has lines for rows set aside.
    """
    heads: tuple[Head, ...] = ()
    rows: list[tuple[Cell, ...]] = []
    spelled: list[tuple[str, ...]] = []
    asides: list[str] = []
    aside_lines: list[tuple[int, str]] = []
    for line_start, line_end in _lines(source, start, len(source.text) if end is None else end):
        if not heads:
            heads, spellings = _read_heads(source, line_start, line_end)
        elif is_result and ASIDE_LINE.match(source.text, line_start, line_end):
            reason = _read_aside(Cursor(source, line_start, line_end))
            asides.append(reason.value)
            aside_lines.append((len(spelled), f"aside {reason.span.text}"))
            continue
        else:
            cells, spellings = _read_cells(source, line_start, line_end)
            if len(cells) != len(heads):
                raise Cursor(source, line_start, line_end).mistake(
                    "cells-do-not-match",
                    f"this row has {len(cells)} cells, and the head has {len(heads)}",
                    "An empty cell is null; separate cells with |.",
                    _content(source, line_start, line_end),
                )
            rows.append(cells)
        spelled.append(spellings)
    return SmallTable(heads, tuple(rows), tuple(spelled), tuple(asides), tuple(aside_lines))


def _read_aside(cursor: Cursor) -> Text:
    cursor.take_word("aside")
    cursor.skip()
    reason = read_text(cursor)
    if not cursor.at_end():
        raise cursor.mistake(
            "unexpected-text",
            "nothing is expected after the reason",
            'Write aside "reason" alone on its line.',
        )
    return reason


def table_lines(table: SmallTable) -> list[str]:
    """A table as it was spelled, its columns lined up."""
    lines = line_up(table.spelled)
    for index, spelled in reversed(table.aside_lines):
        lines.insert(index, spelled)
    return lines


def read_table_pair(source: Source, start: int, end: int, head: SourceSpan) -> tuple[SmallTable, SmallTable]:
    """Reads a table, a line `becomes`, and a table: the body of a test, whose first line is `head`."""
    middles = [line for line in _lines(source, start, end) if source.text[slice(*line)].strip() == BECOMES]
    form = (
        "A test is a table, a line with the word becomes, and a table; each starts with the columns' names."
    )
    if not middles:
        raise wrong_recipe("test-without-becomes", "this test has no line becomes", form, head)
    if len(middles) > 1:
        span = _content(source, *middles[1])
        raise wrong_recipe(
            "said-twice",
            "becomes is there twice in this test",
            'A cell that holds this word is written in quotes: "becomes".',
            span,
        )
    middle_start, middle_end = middles[0]
    given = read_small_table(source, start, middle_start)
    expected = read_small_table(source, middle_end, end, is_result=True)
    for table, where in ((given, "above"), (expected, "below")):
        if not table.heads:
            raise wrong_recipe(
                "test-without-table",
                f"this test has no table {where} becomes",
                form,
                _content(source, middle_start, middle_end),
            )
    return given, expected


def spell_small_table(heads: Sequence[str], rows: Sequence[Sequence[Cell]]) -> list[str]:
    """The lines of a table, its columns lined up. `heads` are spelled as a recipe spells them."""
    return line_up([list(heads), *([spell_cell(cell) for cell in row] for row in rows)])


def line_up(spelled: Sequence[Sequence[str]]) -> list[str]:
    """Spelled cells as lines, one width a column on the screen."""
    widths = [max(map(_width, column)) for column in zip(*spelled, strict=True)]
    return [
        SEPARATOR.join(
            cell + " " * (width - _width(cell)) for cell, width in zip(row, widths, strict=True)
        ).rstrip()
        for row in spelled
    ]


def spell_cell(cell: Cell) -> str:
    """A cell as a table holds it: plain where that is read back the same, else a text with escapes."""
    if cell is None:
        return "null"
    plain = cell.strip() == cell and cell not in ("", "null", BECOMES) and cell.isprintable()
    if plain and not cell.startswith(('"', "'")) and "|" not in cell and "#" not in cell:
        return cell
    return spell_text(cell)


def _lines(source: Source, start: int, end: int) -> Iterator[tuple[int, int]]:
    """Start and end of each line that is not blank."""
    while start < end:
        line_end = source.text.find("\n", start, end)
        line_end = end if line_end < 0 else line_end
        if source.text[start:line_end].strip():
            yield start, line_end
        start = line_end + 1


def _content(source: Source, start: int, end: int) -> SourceSpan:
    """The place of a line without the blanks around it."""
    text = source.text[start:end]
    first = start + len(text) - len(text.lstrip())
    return SourceSpan(source, first, first + len(text.strip()))


def _read_heads(source: Source, start: int, end: int) -> tuple[tuple[Head, ...], tuple[str, ...]]:
    cursor = Cursor(source, start, end)
    heads: list[Head] = []
    spellings: list[str] = []
    while True:
        name = read_name(cursor)
        word = cursor.peek_word()
        at = cursor.offset
        if word and word not in TYPE_WORDS:
            raise cursor.mistake(
                "unknown-type",
                f'"{word}" is not a type of values',
                f"Types are {', '.join(TYPE_WORDS)}. A name of several words is written in square brackets.",
            )
        cursor.take_word(word)
        head = Head(name.value, word, SourceSpan(source, at, at + len(word)) if word else name.span)
        if any(head.name == other.name for other in heads):
            raise cursor.mistake(
                "said-twice", f'the table has "{head.name}" twice', "Each column is allowed once.", name.span
            )
        heads.append(head)
        spellings.append(f"{name.span.text} {word}".rstrip())
        if cursor.at_end():
            return tuple(heads), tuple(spellings)
        if not cursor.take_mark("|"):
            raise cursor.mistake(
                "missing-word",
                f"| is expected here, found {cursor.found()}",
                "Heads are separated by |; a name with other characters than letters, digits and _ is in"
                " square brackets.",
            )


def _read_cells(source: Source, start: int, end: int) -> tuple[tuple[Cell, ...], tuple[str, ...]]:
    """The values of a line's cells, and how each is spelled."""
    cells: list[Cell] = []
    spellings: list[str] = []
    cursor, text = Cursor(source, start, end), source.text
    while True:
        while cursor.offset < end and text[cursor.offset] in " \t":
            cursor.offset += 1
        cell_start = cursor.offset
        if text.startswith('"', cursor.offset, end):
            cells.append(read_text(cursor).value)
            while cursor.offset < end and text[cursor.offset] in " \t":
                cursor.offset += 1
            stop = cursor.offset
        else:
            stop = text.find("|", cursor.offset, end)
            stop = end if stop < 0 else stop
            plain = text[cursor.offset : stop].strip()
            cells.append(None if plain in ("", "null") else plain)
        spellings.append(text[cell_start:stop].strip())
        if stop >= end:
            return tuple(cells), tuple(spellings)
        if text[stop] != "|":
            raise cursor.mistake("missing-word", "| is expected after a text", "Cells are separated by |.")
        cursor.offset = stop + 1


def _width(text: str) -> int:
    return sum(map(screen_width, text))
