"""A block of records to columns: by the compiled kernel, or by Arrow, from which is kept what it would read wrongly."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Sequence
from dataclasses import field, replace
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.csv

from mangler.formats.aside import ASIDE_COLUMNS
from mangler.formats.contract import ParsedBatch
from mangler.formats.delimited.block_reader import Block
from mangler.formats.delimited.collapse import collapsed
from mangler.formats.delimited.dialect import Dialect
from mangler.formats.delimited.fixed_width import cut_block
from mangler.formats.delimited.records import NONE, Positions, field_ends, split_record
from mangler.formats.encoding import offer
from mangler.formats.guard import without_guard
from mangler.formats.null_words import with_null_words
from mangler.kernels import compiled
from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.fields import RISKY_TABLE, Columns, FieldColumn, FieldFacts, FieldsRead, text_column
from mangler.language.mistake import Refusal, file_trouble
from mangler.late_dataclass import dataclass
from mangler.table.batch import Batch
from mangler.table.row_notes import RowNotes, merged

MOST_NOTED = 1000
"""Ragged rows of a block that Arrow is asked to name."""
UNDER_WAY = 7
"""Blocks that may still be worked on, by two workers and a step that gathers: what is asked for of earlier ones is
known."""
BYTE_ORDER_MARK = b"\xef\xbb\xbf"
FREE_BYTES = bytes([0x1F, 0x1E, 0x1D, 0x1C, *range(0x01, 0x09), *range(0x0E, 0x1C)])
"""Control characters, one of which replaces a delimiter of several bytes."""


@dataclass(frozen=True)
class _Fields:
    """A block taken apart. The records that do not fit are numbered from 0, and are none of the columns' rows."""

    columns: Sequence[Any]
    broken: Positions
    blank: Positions
    ragged: Positions
    counts: Positions
    """How many fields each ragged record has."""
    padded: int
    unmade: int | None = None
    """Where columns are not made yet, how many rows they have."""


@dataclass(frozen=True)
class Parser:
    """Reads blocks of one extract; called from several threads at once."""

    names: tuple[str, ...]
    dialect: Dialect
    null_words: tuple[str, ...]
    pad: bool
    name: str
    from_aside: bool = False
    """The file's first four columns tell why its rows were set aside, and are no part of the table."""
    rows: int | None = None
    """Only rows up to this number are wanted."""
    guard_formulas: bool = False
    """Whether the mark is taken off that keeps texts from being formulas."""
    asked: deque[set[int]] = field(default_factory=deque)
    """Of the last blocks the fields whose columns were asked for. It changes what is made at once, and nothing else."""

    @property
    def skipped(self) -> int:
        return len(ASIDE_COLUMNS) if self.from_aside else 0

    def parse(self, block: Block) -> ParsedBatch:
        self._refuse_bad_bytes(block)
        if self.dialect.widths:
            return self._finished(block, cut_block(block, self.dialect.widths), RowNotes())
        fields = self._compiled(block)
        if fields is None:
            fields = self._by_arrow(block)
        short = int(np.count_nonzero(fields.counts < self._width))
        return replace(
            self._finished(block, fields.columns, self._unfit(block, fields), fields.unmade),
            padded=fields.padded,
            short=short,
        )

    @property
    def _width(self) -> int:
        return len(self.names) + self.skipped

    def _compiled(self, block: Block) -> _Fields | None:
        """The fields by the compiled kernel; None where it is not there, or where it does not know the dialect."""
        dialect = self.dialect
        known = len(dialect.delimiter.encode()) == 1 and not (
            dialect.escape or dialect.in_runs or block.has_gaps
        )
        if compiled.records is None or not known or len(block.content) > compiled.records.LARGEST:
            return None
        marks = dialect.spelling
        asked: set[int] = set()
        fields, columns, broken, ragged, counts, padded, places, as_is, facts = compiled.records.split(
            block.content,
            field_ends(block.array, marks, block.marks),
            block.marks.returns,
            block.marks.is_sound,
            self._width,
            marks.delimiter[0],
            marks.quote,
            self.pad,
            RISKY_TABLE,
            self._expected(asked),
        )
        made = {number: text_column(*one) for number, one in zip(fields, columns, strict=True)}
        every = range(self.skipped, self._width)
        if places is None:
            return _Fields([made[number] for number in every], broken, NONE, ragged, counts, padded)
        layout = dialect.delimiter, dialect.quote
        read = FieldsRead(block.content, places, self._width, as_is, *layout, facts, asked)
        told = [FieldFacts(*one) for one in zip(*facts.tolist(), strict=True)]
        entries = Columns(FieldColumn(read, number, made.get(number), facts=told[number]) for number in every)
        return _Fields(entries, broken, NONE, ragged, counts, padded, len(read))

    def _expected(self, asked: set[int]) -> list[int]:
        """The fields whose columns were asked for of a block before: made with the others, while its bytes are near.

        `asked` will have those of this block.
        """
        self.asked.append(asked)
        return sorted(self.asked.popleft()) if len(self.asked) > UNDER_WAY else []

    def _by_arrow(self, block: Block) -> _Fields:
        blank = NONE
        if self.dialect.in_runs:
            block, blank = collapsed(block, self.dialect.spelling)
        altered: dict[int, bytes] = {}
        broken = block.marks.broken  # of what was read: the block may end before them
        broken = broken[broken < len(block.content)]
        if len(broken) or len(blank):  # where records start is only looked for where it is asked
            broken = np.union1d(block.indexes_at(broken), blank)
        self._protect_lone_returns(block, altered)
        columns, ragged = self._read(block, broken, altered)
        padded = 0
        if self.pad and any(fields < self._width for fields in ragged.values()):
            delimiter = self.dialect.delimiter.encode()
            for index, fields in ragged.items():
                if fields < self._width:
                    record = altered.get(index, block.record(index))
                    altered[index] = record + delimiter * (self._width - fields)
                    padded += 1
            columns, ragged = self._read(block, broken, altered)
        indexes = np.fromiter(ragged.keys(), np.intp, len(ragged))
        counts = np.fromiter(ragged.values(), np.intp, len(ragged))
        return _Fields(columns, np.setdiff1d(broken, blank), blank, indexes, counts, padded)

    def _finished(
        self, block: Block, columns: Sequence[Any], unfit: RowNotes, unmade: int | None = None
    ) -> ParsedBatch:
        """The rows that fit, up to the one that is wanted last."""
        rows = np.arange(block.first_row, block.first_row + block.row_count, dtype=np.int64)
        if len(unfit):
            rows = np.delete(rows, unfit.rows - block.first_row)
        if any(count != len(rows) for count in ([unmade] if unmade is not None else map(len, columns))):
            raise file_trouble(
                "line-ends",
                f"{self.name}: rows {block.first_row:,} to {block.first_row + block.row_count - 1:,} cannot be"
                " separated",
                "Line ends or quotes in these rows are of mixed kinds; correct them in the extract.",
            )
        if self.rows is not None and block.first_row + block.row_count - 1 > self.rows:
            count = int(np.searchsorted(rows, self.rows, side="right"))
            rows, columns = rows[:count], [column.slice(0, count) for column in columns]
            unfit = unfit.only(unfit.rows <= self.rows)
        batch = Batch(columns if isinstance(columns, Columns) else tuple(columns), rows, block)
        if self.guard_formulas:
            batch = batch.with_columns([without_guard(column) for column in batch.columns])
        if not self.null_words:
            return ParsedBatch(batch, unfit)
        found, nulls = with_null_words(batch.columns, self.null_words)
        return ParsedBatch(batch.with_columns(found), unfit, nulls)

    def _unfit(self, block: Block, fields: _Fields) -> RowNotes:
        """The rows that do not fit: with text after a quote, with nothing, and with too few or too many fields."""
        counts, codes = np.unique(fields.counts, return_inverse=True)
        messages = tuple(
            f"{count} {'field' if count == 1 else 'fields'} where the header has {len(self.names)}"
            for count in (counts - self.skipped).tolist()
        )
        first = block.first_row
        return merged(
            [
                RowNotes.for_one_reason(fields.broken + first, "text after a closing quote"),
                RowNotes.for_one_reason(fields.blank + first, "nothing but delimiters"),
                RowNotes(fields.ragged + first, codes, messages),
            ]
        )

    # What Arrow is given

    def _read(
        self, block: Block, unfit: Positions, altered: dict[int, bytes]
    ) -> tuple[list[Any], dict[int, int]]:
        """The columns of all records but the unfit, and the number of fields of ragged ones, by record in order."""
        data = block.data
        if len(unfit) or altered or block.has_gaps:
            data = _spliced(block, unfit, altered)
        if not data or block.row_count == len(unfit):
            return [pa.array([], pa.string()) for _ in self.names], {}
        width = self._width
        if not data.endswith(b"\n"):
            data += b"\n"  # without it Arrow takes an empty last field for what the one before it was
        separator, data = self._one_byte_delimiter(data)
        # Arrow takes a byte order mark off the front of whatever it reads; here it is data.
        guarded = data.startswith(BYTE_ORDER_MARK)
        if guarded:
            data = b"\n" + data
        ragged: dict[int, int] = {}
        kept = np.delete(np.arange(block.row_count), unfit).tolist() if len(unfit) else None
        one_column = width == 1

        def note(row: Any) -> str:
            if len(ragged) == MOST_NOTED:
                return "error"
            ordinal = row.number - 1 - (guarded and one_column)
            ragged[kept[ordinal] if kept else ordinal] = row.actual_columns
            return "skip"

        keys = [str(number) for number in range(width)]
        try:
            table = self._table(data, separator, keys, note)
        except pa.ArrowInvalid:
            if len(ragged) < MOST_NOTED:
                raise
            # Arrow hands ragged rows on one by one: so many are counted here instead, and left out.
            ragged = self._count_ragged(block, unfit, width)
            left_out = np.union1d(unfit, np.fromiter(ragged, np.int64, len(ragged)))
            return self._read(block, left_out, altered)[0], ragged
        if guarded and one_column:
            table = table.slice(1)
        columns = [_one_chunk(column) for column in table.columns[self.skipped :]]
        if separator != self.dialect.delimiter:
            columns = [
                pc.replace_substring(column, pattern=separator, replacement=self.dialect.delimiter)
                for column in columns
            ]
        return columns, ragged

    def _count_ragged(self, block: Block, unfit: Positions, width: int) -> dict[int, int]:
        """The number of fields of each record that has too few or too many."""
        counts = block.field_counts(self.dialect.spelling)
        wrong = counts != width
        wrong[unfit] = False
        where = np.flatnonzero(wrong)
        return dict(zip(where.tolist(), counts[where].tolist(), strict=True))

    def _table(self, data: bytes, separator: str, keys: list[str], note: Callable[[Any], str]) -> Any:
        return pyarrow.csv.read_csv(
            pa.BufferReader(data),
            pyarrow.csv.ReadOptions(use_threads=False, block_size=max(64, len(data) + 1), column_names=keys),
            pyarrow.csv.ParseOptions(
                delimiter=separator,
                quote_char=self.dialect.quote,
                escape_char=self.dialect.escape or False,
                newlines_in_values=True,
                ignore_empty_lines=len(keys) > 1,
                invalid_row_handler=note,
            ),
            pyarrow.csv.ConvertOptions(
                check_utf8=False,
                column_types=dict.fromkeys(keys, pa.string()),
                null_values=[""],
                strings_can_be_null=True,
                quoted_strings_can_be_null=False,
            ),
        )

    def _one_byte_delimiter(self, data: bytes) -> tuple[str, bytes]:
        """Arrow splits at one byte: a delimiter of several is exchanged for a byte that the data lacks."""
        delimiter = self.dialect.delimiter.encode()
        if len(delimiter) == 1:
            return self.dialect.delimiter, data
        free = next((byte for byte in FREE_BYTES if byte not in data), None)
        if free is None:
            raise file_trouble(
                "delimiter",
                f"{self.name} cannot be split at {self.dialect.delimiter}",
                "It holds every control character; replace the delimiter by one of ASCII.",
            )
        return chr(free), data.replace(delimiter, bytes([free]))

    def _protect_lone_returns(self, block: Block, altered: dict[int, bytes]) -> None:
        """A CR without LF, outside quotes, is data; Arrow would end the row there unless it is quoted."""
        if b"\r" not in block.data:
            return
        returns = np.flatnonzero(block.array == 13)
        following = block.array[np.minimum(returns + 1, len(block.array) - 1)]
        at_end = returns == len(block.array) - 1
        lone = returns[(following != 10) & ~at_end]
        lone = lone[~block.marks.quoted(lone)]
        quote, delimiter = self.dialect.quote.encode(), self.dialect.delimiter.encode()
        for index in np.unique(block.indexes_at(lone)).tolist():
            fields = split_record(block.record(index), self.dialect.spelling)
            altered[index] = delimiter.join(
                quote + field.replace(quote, quote * 2) + quote
                if b"\r" in field and not field.startswith(quote)
                else field
                for field in fields
            )

    # What no reader could make sense of

    def _refuse_bad_bytes(self, block: Block) -> None:
        if (nul := block.nul) >= 0:
            raise self._bad_byte(block, nul, "a NUL byte", NUL_ADVICE)
        whole = pa.Array.from_buffers(
            pa.binary(),
            1,
            [None, pa.py_buffer(np.array([0, len(block.content)], np.int32)), pa.py_buffer(block.content)],
        ).view(pa.string())
        try:
            whole.validate(full=True)
        except pa.ArrowInvalid:
            raise self._not_utf8(block) from None

    def _not_utf8(self, block: Block) -> Refusal:
        try:
            block.data.decode("utf-8")
        except UnicodeDecodeError as error:
            what = f"the byte {block.data[error.start]:#04x}, which is not UTF-8"
            return self._bad_byte(block, error.start, what, offer(block.data, error.start))
        raise AssertionError("Arrow and Python differ about UTF-8")

    def _bad_byte(self, block: Block, position: int, what: str, advice: str) -> Refusal:
        line = block.first_line + int(np.count_nonzero(block.array[:position] == 10))
        index = block.index_at(position)
        before = block.data[block.starts[index] : position]
        field = len(self.dialect.fields(before))
        field -= self.skipped
        column = f', column "{self.names[field - 1]}"' if 1 <= field <= len(self.names) else ""
        return file_trouble(
            "encoding",
            f"{self.name}, line {line}: row {block.first_row + index:,}{column} holds {what}",
            advice,
        )


NUL_ADVICE = "Text holds no NUL bytes: the file may be damaged, or in UTF-16, or no text at all."


def _spliced(block: Block, left_out: Positions, altered: dict[int, bytes]) -> bytes:
    """The block's records without some, and with others in the place of some; each with its line end."""
    keep = np.ones(block.row_count, np.bool_)
    keep[left_out] = False
    starts, ends = block.starts, np.minimum(block.ends + 1, len(block.content))
    pieces: list[bytes] = []
    at = 0
    for index in [*sorted(altered), block.row_count]:
        if index > at:
            pieces.append(_records(block, starts[at:index], ends[at:index], keep[at:index]))
        if index < block.row_count and keep[index]:
            pieces.append(altered[index] + b"\n")
        at = index + 1
    return b"".join(piece if piece.endswith(b"\n") else piece + b"\n" for piece in pieces if piece)


def _records(block: Block, starts: Positions, ends: Positions, keep: Any) -> bytes:
    """Those of a run of records that are kept, as they are in the block."""
    first, last = int(starts[0]), int(ends[-1])
    if keep.all() and not block.has_gaps and not block.empty_lines:
        return block.data[first:last]
    if len(starts) < FEW:
        return b"".join(
            block.data[s:e] for s, e in zip(starts[keep].tolist(), ends[keep].tolist(), strict=True)
        )
    edges = np.zeros(last - first + 1, np.int8)
    edges[starts[keep] - first] += 1  # no two records start, or end, at the same byte
    edges[ends[keep] - first] -= 1
    flags = np.cumsum(edges[:-1], dtype=np.int8).view(np.bool_)
    return block.array[first:last][flags].tobytes()


FEW = 16


def _one_chunk(column: ColumnArray) -> Any:
    if column.num_chunks == 1:
        return column.chunk(0)
    return pa.concat_arrays(column.chunks) if column.num_chunks else pa.array([], pa.string())
