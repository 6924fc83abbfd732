"""The text of a recipe, and places in it."""

from __future__ import annotations

import re
from bisect import bisect_right

from mangler.late_dataclass import dataclass


class Source:
    """A named text. `name` is what messages call it: the file as the user gave it, or `STEP 1`.

    Line ends are folded to LF, so that offsets, lines and columns mean the same on every system.
    """

    def __init__(self, name: str, text: str) -> None:
        self.name = name
        self.text = text.removeprefix("\ufeff").replace("\r\n", "\n").replace("\r", "\n")
        self._line_starts = [0, *(found.end() for found in re.finditer("\n", self.text))]

    def locate(self, offset: int) -> tuple[int, int]:
        """Line and column of an offset, both from 1; columns count characters."""
        line = bisect_right(self._line_starts, offset)
        return line, offset - self._line_starts[line - 1] + 1

    def line_text(self, line: int) -> str:
        start = self._line_starts[line - 1]
        end = self.text.find("\n", start)
        return self.text[start:] if end < 0 else self.text[start:end]


@dataclass(frozen=True, eq=False)
class SourceSpan:
    """The characters from `start` up to, not including, `end` of a source."""

    source: Source
    start: int
    end: int

    @property
    def line(self) -> int:
        return self.source.locate(self.start)[0]

    @property
    def column(self) -> int:
        return self.source.locate(self.start)[1]

    @property
    def text(self) -> str:
        return self.source.text[self.start : self.end]
