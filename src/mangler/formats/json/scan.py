"""A file of objects, read once: its columns and their types, and its rows as they are kept until they are asked for.

The type of a column is that of all its values, so the whole file is read before the first row is handed on. What was
read waits in a temporary file as columns; a column that turns out to be of another type than a piece of the file
showed is built again from the text.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import field, replace
from pathlib import Path as FilePath
from typing import Any

import numpy as np
import pyarrow as pa

from mangler.formats.aside import ASIDE_COLUMNS
from mangler.formats.header_names import refuse_too_many
from mangler.formats.json.columns import (
    Cells,
    Path,
    TooSparseError,
    adapted,
    built,
    facts_by_path,
    values_by_path,
)
from mangler.formats.json.exact import NotARowError, exact_row, rows_of
from mangler.formats.json.flat import facts_of_column, plain_schema
from mangler.formats.json.kinds import NONE, Facts, Target, target_of
from mangler.formats.json.read_ahead import ReadAhead
from mangler.formats.json.splitting import Layout, Piece, Stretch, pieces
from mangler.formats.quiet_memory import without_collector
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.dictionary import as_dictionary
from mangler.language.mistake import Refusal, extract_does_not_fit, file_trouble
from mangler.late_dataclass import dataclass
from mangler.table.memory_budget import SpoolFile
from mangler.table.row_notes import RowNotes

PIECE = 768 << 10
"""Bytes of text that are read at a time: what is made from them has a place in a processor's cache."""
PARTITION = 4 << 20
"""Bytes of text whose rows are handed on together."""
SMALL = 32 << 20
"""What was read of a file of so many bytes waits in memory."""
MOST_CELLS_PER_BYTE = 8
"""Objects that have so little in common make a table of nothing but nulls."""
FEW_CELLS = 4_000_000
JSON = pa.json_(pa.string())
"""The type of texts that are JSON themselves, so that they are written as such again."""
RAW_TEXT = "_text"
"""In a file of rows set aside, the key of a line that was no object."""


FROM_START = Stretch(0, 0)


@dataclass(frozen=True)
class ScannedPiece:
    """One piece: the place of its columns among what waits, and what they were built as."""

    number: int
    spans: int
    """The place of where its rows are in the file."""
    targets: dict[Path, Target | None]
    first_row: int
    row_count: int
    end: int
    """Bytes of the file up to its end."""


@dataclass
class Scan:
    """What is known of a file when it was read once."""

    file: FilePath
    layout: Layout
    pieces: list[ScannedPiece] = field(default_factory=list)
    facts: dict[Path, Facts] = field(default_factory=dict)
    was_set_aside: bool = False
    rows: int = 0
    keeps_rows: bool = True
    """Whether rows are kept; without them only what the columns are is found out."""
    stretch: Stretch = FROM_START
    _waiting: list[Any] = field(default_factory=list)
    _spool: SpoolFile | None = None

    @property
    def columns(self) -> dict[Path, Target]:
        """The columns of the table in the order in which they first come, those of an object together.

        Objects that are kept whole hide theirs.
        """
        found: dict[Path, Target] = {}
        place = {path: index for index, path in enumerate(self.facts)}
        # The facts of a piece come object by object, so the order of all depends on where pieces end; this does not.
        ordered = sorted(
            self.facts.items(), key=lambda one: [place[one[0][:n]] for n in range(1, len(one[0]) + 1)]
        )
        for path, facts in ordered:
            target = target_of(facts)
            hidden = any(path[:length] in found for length in range(1, len(path)))
            if target is not None and not hidden:
                found[path] = target
        if self.was_set_aside:
            found = {path: target for path, target in found.items() if path not in _ASIDE_PATHS}
        return found

    @property
    def nested(self) -> frozenset[str]:
        """The names of objects whose values are columns of their own."""
        return frozenset(".".join(path[:length]) for path in self.columns for length in range(1, len(path)))

    def put(self, record: Any) -> int:
        if self._spool is None:
            self._waiting.append(record)
            return len(self._waiting) - 1
        return self._spool.write(record)

    def get(self, number: int) -> Any:
        return self._waiting[number] if self._spool is None else self._spool.read(number)

    def close(self) -> None:
        self._waiting.clear()
        if self._spool is not None:
            self._spool.close()


_ASIDE_PATHS = {(name,) for name in (*ASIDE_COLUMNS, RAW_TEXT)}
SPANS = ("starts", "ends", "lines", "unfit")


def scan(
    file: FilePath,
    layout: Layout,
    name: str,
    size: int,
    rows: int | None,
    stretch: Stretch | None = None,
    keeps_rows: bool = True,
) -> Scan:
    """Reads a file of objects, or a stretch of its lines. `rows`: nothing behind this row is wanted."""
    found = Scan(file, layout, keeps_rows=keeps_rows, stretch=stretch or FROM_START)
    if size > SMALL and keeps_rows:
        found._spool = SpoolFile()
    alone = rows is not None or stretch is not None  # others work on other stretches
    try:
        with file.open("rb") as stream, ReadAhead(0 if alone else None) as ahead:
            for piece, record in ahead.read(pieces(stream, layout, PIECE, name, stretch)):
                if record is not None:
                    _take_plain(found, piece, record, name)
                else:
                    with without_collector():
                        _take(found, piece, name)
                    ahead.schema = None if found.was_set_aside else plain_schema(found.facts)
                if rows is not None and found.rows >= rows:
                    break
    except BaseException:
        found.close()
        raise
    return found


def _take_plain(found: Scan, piece: Piece, record: Any, name: str) -> None:
    """Adds a piece that was read as columns."""
    seen = {
        (key,): facts_of_column(column)
        for key, column in zip(record.schema.names, record.columns, strict=True)
    }
    for path, facts in seen.items():
        found.facts[path].add(facts)
    _refuse_sparse(found, piece, len(piece), name)
    targets: dict[Path, Target | None] = {
        path: Target(column.type) for path, column in zip(seen, record.columns, strict=True)
    }
    _keep(found, piece, record.columns, targets, {})


def _take(found: Scan, piece: Piece, name: str) -> None:
    rows, reasons = rows_of(piece.texts)
    if piece.is_cut_off and len(rows) - 1 in reasons and found.layout is Layout.LINES:
        raise file_trouble(
            "file-damaged",
            f"{name} ends in the middle of line {int(piece.lines[-1]):,}: what is there {reasons[len(rows) - 1]}",
            "It may not be written to its end.",
        )
    if not found.rows and not found.stretch.start:
        fits: dict[str, Any] = next((row for index, row in enumerate(rows) if index not in reasons), {})
        found.was_set_aside = tuple(fits)[: len(ASIDE_COLUMNS)] == ASIDE_COLUMNS
    if found.was_set_aside:
        _restore(rows, reasons)
    kept = [row for index, row in enumerate(rows) if index not in reasons] if reasons else rows
    size = int(piece.ends[-1] - piece.starts[0])
    try:
        values = values_by_path(kept, most_cells=max(FEW_CELLS, MOST_CELLS_PER_BYTE * size))
    except TooSparseError as error:
        refuse_too_many(error.keys, name)
        raise _sparse(name, len(rows), error.keys) from None
    seen = facts_by_path(values)
    for path, facts in seen.items():
        found.facts.setdefault(path, Facts()).add(facts)
    refuse_too_many(len(found.facts), name)
    _refuse_sparse(found, piece, len(rows), name)
    targets = {path: target_of(facts) for path, facts in seen.items()}
    columns = [built(values[path], target) for path, target in targets.items() if target is not None]
    _keep(found, piece, columns, targets, reasons)


def _keep(
    found: Scan,
    piece: Piece,
    columns: list[ColumnArray],
    targets: dict[Path, Target | None],
    reasons: dict[int, str],
) -> None:
    """Puts the columns of a piece, which has the rows of `reasons` besides, to what waits."""
    count = len(piece)
    if not found.keeps_rows:
        found.rows += count
        return
    number = found.put(_record(columns, count - len(reasons)))
    told = pa.nulls(count, pa.string())
    if reasons:
        told = pa.array([reasons.get(index) for index in range(count)], pa.string())
    spans = [pa.array(piece.starts), pa.array(piece.ends), pa.array(piece.lines), told]
    place = found.put(pa.RecordBatch.from_arrays(spans, names=list(SPANS)))
    found.pieces.append(
        ScannedPiece(number, place, targets, found.stretch.row + found.rows, count, int(piece.ends[-1]))
    )
    found.rows += count


def _record(columns: list[ColumnArray], count: int) -> Any:
    """Columns by number, behind one that says how many rows there are."""
    names = list(map(str, range(len(columns) + 1)))
    return pa.RecordBatch.from_arrays([pa.nulls(count), *columns], names=names)


def _restore(rows: list[Any], reasons: dict[int, str]) -> None:
    """Rows set aside that were no objects: what their text is now."""
    for index, row in enumerate(rows):
        text = row.get(RAW_TEXT)
        if type(text) is not str:
            continue
        try:
            rows[index] = exact_row(text.encode())
        except NotARowError as error:
            rows[index] = {}
            reasons[index] = str(error)


def _refuse_sparse(found: Scan, piece: Piece, more: int, name: str) -> None:
    refuse_sparse(found.facts, int(piece.ends[-1]) - found.stretch.start, found.rows + more, name)


def refuse_sparse(facts: Mapping[Path, Facts], size: int, rows: int, name: str) -> None:
    """Refuses objects that have few keys in common: the first rows, in so many bytes."""
    cells = len(facts) * rows
    if cells > FEW_CELLS and cells > MOST_CELLS_PER_BYTE * size:
        raise _sparse(name, rows, len(facts))


def _sparse(name: str, rows: int, keys: int) -> Refusal:
    return extract_does_not_fit(
        "objects-differ",
        f"{name}: {rows:,} of its objects have {keys:,} keys, and few in common",
        "As a table it would hold almost nothing but nulls. Are values used as keys?",
    )


def partitions_of(found: Scan) -> Iterator[tuple[ScannedPiece, Any, Any]]:
    """Pieces put together up to the size of a partition: the first of them with all rows, records and spans."""
    waiting: list[tuple[ScannedPiece, Any, Any]] = []
    start = 0
    for one in _record_batches(found):
        waiting.append(one)
        if one[0].end - start >= PARTITION:
            yield _together(waiting)
            waiting, start = [], one[0].end
    if waiting:
        yield _together(waiting)


def _together(pieces_read: list[tuple[ScannedPiece, Any, Any]]) -> tuple[ScannedPiece, Any, Any]:
    first, last = pieces_read[0][0], pieces_read[-1][0]
    if first is last:
        return pieces_read[0]
    whole = replace(first, row_count=sum(piece.row_count for piece, _, _ in pieces_read), end=last.end)
    records, spans = (
        pa.Table.from_batches([one[part] for one in pieces_read]).combine_chunks().to_batches()
        for part in (1, 2)
    )
    nothing = pieces_read[0][1]
    return whole, records[0] if records else nothing, spans[0]


def _record_batches(found: Scan) -> Iterator[tuple[ScannedPiece, Any, Any]]:
    """For each piece its rows that fit, in the types of the whole file, and its spans."""
    columns = found.columns
    for piece in found.pieces:
        record, spans = found.get(piece.number), found.get(piece.spans)
        stored = dict(
            zip(
                [path for path, target in piece.targets.items() if target is not None],
                record.columns[1:],
                strict=True,
            )
        )
        count = record.num_rows
        arrays: list[ColumnArray] = []
        again: dict[Path, Cells] | None = None
        for path, target in columns.items():
            array = None
            if path in stored:
                array = adapted(stored[path], piece.targets[path], target)
            elif path not in piece.targets:
                array = pa.nulls(count, target.type)
            if array is None:
                again = again if again is not None else _values_again(found, spans, columns)
                array = built(again.get(path, Cells([None] * count, frozenset({NONE}))), target)
            arrays.append(pa.ExtensionArray.from_storage(JSON, array) if target.is_tree else array)
        names = [".".join(path) for path in columns]
        yield piece, pa.RecordBatch.from_arrays(arrays, names=names) if arrays else _record([], count), spans


def _values_again(found: Scan, spans: Any, columns: dict[Path, Target]) -> dict[Path, Cells]:
    """The values of a piece, read from its text once more."""
    fits = np.asarray(spans.column("unfit").is_null())
    texts = texts_at(found.file, spans, np.flatnonzero(fits))
    rows, _ = rows_of(texts)
    if found.was_set_aside:
        _restore(rows, {})
    whole = [path for path, target in columns.items() if target.is_tree]
    return values_by_path(rows, whole)


def texts_at(file: FilePath, spans: Any, indexes: Any) -> list[bytes]:
    """The texts of rows of a piece, as they are in the file."""
    starts = np.asarray(spans.column("starts"))[indexes].tolist()
    ends = np.asarray(spans.column("ends"))[indexes].tolist()
    if not starts:
        return []
    with file.open("rb") as stream:
        stream.seek(starts[0])
        content = stream.read(ends[-1] - starts[0])
    first = starts[0]
    return [content[start - first : end - first] for start, end in zip(starts, ends, strict=True)]


def unfit_of(piece: ScannedPiece, spans: Any) -> RowNotes:
    """The rows of a piece that are no objects, and why."""
    reasons = spans.column("unfit")
    if reasons.null_count == len(reasons):
        return RowNotes()
    where = np.flatnonzero(np.asarray(reasons.is_valid()))
    encoded = as_dictionary(reasons.take(pa.array(where)))
    codes = np.asarray(encoded.indices).astype(np.int64)
    return RowNotes(where + piece.first_row, codes, tuple(encoded.dictionary.to_pylist()))
