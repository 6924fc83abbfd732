"""Objects on lines of their own, divided by bytes.

The type of a column is that of all its values, so ranges are read once to find out which kinds of values there are, all
at once, anywhere; and once more when the rows are worked on. No text of JSON holds a line feed: a range starts where a
line starts.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from pathlib import Path as FilePath
from typing import IO

import numpy as np

from mangler.formats.dividing import Helpers, MapOrdered, Piece
from mangler.formats.json.columns import Path
from mangler.formats.json.kinds import Facts
from mangler.formats.json.partitions import partitions_of_scan
from mangler.formats.json.scan import PIECE, refuse_sparse, scan
from mangler.formats.json.splitting import LARGEST_ROW, LINE_FEED, Layout, Stretch
from mangler.formats.location import Location
from mangler.formats.typed_source import TypedPartition
from mangler.freed_memory import keep_freed_memory
from mangler.kernels.content_digest import BYTES as WHOLE
from mangler.kernels.content_digest import ContentDigest, products
from mangler.kernels.text.byte_counts import count_byte
from mangler.language.mistake import Refusal
from mangler.late_dataclass import dataclass

READ_ON = 1 << 20
PARTITIONS_AT_LEAST = 16


@dataclass(frozen=True)
class _Range:
    """Bytes of a file, up to a multiple of the size; the lines that start in them are to be read."""

    path: str
    name: str
    number: int
    size: int
    digests: bool


@dataclass(frozen=True)
class _Surveyed:
    """What the lines of a range hold."""

    start: int
    end: int
    rows: int
    lines: int
    facts: dict[Path, Facts]
    was_set_aside: bool
    sums: bytes
    """Of the digest: those of the range's own bytes."""
    rest: bytes


def _survey(task: _Range) -> _Surveyed | None:
    """Reads the lines of a range for the kinds of their values. None where they cannot be read: whoever reads the whole
    file says why. Called anywhere that the file is."""
    keep_freed_memory()
    begin, path = task.number * task.size, FilePath(task.path)
    try:
        with path.open("rb") as file:
            start, end = _line_start(file, begin), _line_start(file, begin + task.size)
            if start < 0 or end < 0:
                return None
            file.seek(begin)
            own = file.read(task.size)
            tail = file.read(max(0, end - begin - len(own)))
        whole = len(own) // WHOLE * WHOLE if task.digests else 0
        sums = products(memoryview(own)[:whole]).tobytes() if whole else b""
        rest = own[whole:] if task.digests else b""
        if start >= end:
            return _Surveyed(start, start, 0, 0, {}, False, sums, rest)
        lines = _line_feeds(memoryview(own)[start - begin :]) + _line_feeds(memoryview(tail))
        del own, tail
        found = scan(path, Layout.LINES, task.name, end - start, None, Stretch(start, end), keeps_rows=False)
    except (Refusal, OSError):
        return None
    found.close()
    return _Surveyed(start, end, found.rows, lines, found.facts, found.was_set_aside, sums, rest)


def _line_feeds(content: memoryview) -> int:
    return count_byte(np.frombuffer(content, np.uint8), LINE_FEED)


def _line_start(file: IO[bytes], place: int) -> int:
    """Where the first line starts at or behind a place; the file's end where none does, -1 where that is too far."""
    if place == 0:
        return 0
    at = file.seek(place - 1)
    while content := file.read(READ_ON):
        found = content.find(b"\n")
        if found >= 0:
            return at + found + 1
        at += len(content)
        if at - place > LARGEST_ROW:
            return -1
    return max(at, place)


@dataclass(frozen=True)
class Found:
    """What the survey of a file found: the kinds of the values of its columns."""

    facts: dict[Path, Facts]


@dataclass(frozen=True)
class LineDivision:
    """The division of an opened file of objects on lines of their own."""

    known: Found
    file: FilePath
    name: str
    found: tuple[Piece, ...] = ()
    """Its pieces; none where it was surveyed elsewhere."""

    def pieces(self, size: int, everywhere: MapOrdered) -> Sequence[Piece] | str:  # noqa: ARG002
        return self.found

    def most_partitions(self, size: int) -> int:
        return size // PIECE + PARTITIONS_AT_LEAST

    def partitions(self, piece: Piece) -> Iterator[TypedPartition]:
        stretch = Stretch(piece.start, piece.end, piece.first_row, piece.first_line)
        scanned = scan(self.file, Layout.LINES, self.name, piece.end - piece.start, None, stretch)
        try:
            scanned.facts = self.known.facts
            yield from partitions_of_scan(scanned, self.name, piece.is_last)
        finally:
            scanned.close()


def surveyed(location: Location, helpers: Helpers) -> tuple[Found, tuple[Piece, ...]] | None:
    """What is in a file, found out by all helpers at once; None where one reader must read it from its start."""
    path, total = location.path, location.size
    size = helpers.piece_size(total)
    if path is None or size is None:
        return None
    size = max(WHOLE, size // WHOLE * WHOLE)
    one = _Range(str(path.absolute()), location.name, 0, size, location.raw.digests)
    ranges = [replace(one, number=number) for number in range(-(-total // size))]
    found, pieces = Found({}), list[Piece]()
    row, line, digest = 1, 1, ContentDigest()
    for outcome in helpers.everywhere(_survey, ranges):
        if outcome is None or outcome.was_set_aside:
            return None
        for path_of, facts in outcome.facts.items():
            found.facts.setdefault(path_of, Facts()).add(facts)
        try:
            refuse_sparse(found.facts, outcome.end, row - 1 + outcome.rows, location.name)
        except Refusal:
            return None
        if outcome.rows:
            pieces.append(Piece(len(pieces), outcome.start, outcome.end, row, line))
        row, line = row + outcome.rows, line + outcome.lines
        digest.update_with_sums(outcome.sums, outcome.rest)
    if not pieces:
        return None
    if location.raw.digests:
        location.known_digest = digest.hexdigest()
    return found, tuple(replace(piece, is_last=piece is pieces[-1]) for piece in pieces)
