"""A recipe cut into its items: statements, and comments that are between them."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TypeAlias

from mangler.language.source import Source
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass


@dataclass(frozen=True)
class Comments:
    """Comment lines that start in the first column, switched-off statements among them."""

    lines: tuple[str, ...]
    blank_before: bool
    line: int = 0
    """The first one's line in the recipe."""


@dataclass(frozen=True)
class Step:
    statement: Statement
    blank_before: bool


Item: TypeAlias = Comments | Step


@dataclass(frozen=True)
class Chunk:
    """A statement, a run of comment lines, or indented lines that belong to nothing."""

    kind: str
    start: int
    end: int
    blank_before: bool

    def text(self, source: Source) -> str:
        return source.text[self.start : self.end]


def cut(source: Source) -> Iterator[Chunk]:
    """A statement starts in the first column; indented lines continue it; blank lines do not end it."""
    kind, start, end, blank_before, blank = "", 0, 0, False, False
    offset = 0
    for line in source.text.split("\n"):
        stripped = line.strip()
        line_kind = ""
        if line.startswith("#"):
            line_kind = "comment"
        elif stripped and not line[0].isspace():
            line_kind = "statement"
        elif stripped and kind != "statement":
            line_kind = "comment" if stripped.startswith("#") else "stray"
        if line_kind:
            if line_kind != kind or line_kind == "statement" or blank:
                if kind:
                    yield Chunk(kind, start, end, blank_before)
                kind, start, blank_before = line_kind, offset, blank
            end = offset + len(line)
        elif stripped:
            end = offset + len(line)
        blank = not stripped
        offset += len(line) + 1
    if kind:
        yield Chunk(kind, start, end, blank_before)
