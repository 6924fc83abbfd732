"""A block of records to columns: Arrow reads what is sound, and what it would read wrongly is kept from it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.csv

from mangler.formats.delimited.blocks import Block
from mangler.formats.delimited.dialect import Dialect
from mangler.formats.delimited.records import split_record
from mangler.formats.encoding import offer
from mangler.kernels.text_view import with_nulls
from mangler.kernels.whole import WholeMatcher, match_whole
from mangler.language.mistake import Refusal, file_trouble
from mangler.table.batch import Batch

BYTE_ORDER_MARK = b"\xef\xbb\xbf"
ASIDE_COLUMNS = ("_file", "_row", "_step", "_reason")
"""Stand in front of rows set aside; a file that starts with them is read as such."""
FREE_BYTES = bytes([0x1F, 0x1E, 0x1D, 0x1C, *range(0x01, 0x09), *range(0x0E, 0x1C)])
"""Control characters, one of which stands in for a delimiter of several bytes."""


@dataclass(frozen=True)
class UnfitRow:
    """A row that has no place in the table, and why."""

    row: int
    reason: str


@dataclass(frozen=True)
class Parsed:
    batch: Batch
    unfit: tuple[UnfitRow, ...]
    nulls_made: int
    """Cells that held a null word."""
    padded: int
    """Rows with too few fields, filled up."""


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

    @property
    def skipped(self) -> int:
        return len(ASIDE_COLUMNS) if self.from_aside else 0

    def parse(self, block: Block) -> Parsed:
        self._refuse_bad_bytes(block)
        width = len(self.names) + self.skipped
        unfit: dict[int, str] = {}
        altered: dict[int, bytes] = {}
        broken = block.marks.broken  # of what was read: the block may end before them
        for position in broken[broken < len(block.data)].tolist():
            unfit[block.index_at(position)] = "text after a closing quote"
        self._protect_lone_returns(block, altered)
        columns, ragged = self._read(block, unfit, altered)
        padded = 0
        if self.pad and any(fields < width for fields in ragged.values()):
            delimiter = self.dialect.delimiter.encode()
            for index, fields in ragged.items():
                if fields < width:
                    record = altered.get(index, block.record(index))
                    altered[index] = record + delimiter * (width - fields)
                    padded += 1
            columns, ragged = self._read(block, unfit, altered)
        for index, fields in ragged.items():
            fields -= self.skipped
            unfit[index] = (
                f"{fields} {'field' if fields == 1 else 'fields'} where the header has {len(self.names)}"
            )
        rows = np.arange(block.first_row, block.first_row + block.count, dtype=np.int64)
        if unfit:
            rows = np.delete(rows, sorted(unfit))
        if any(len(column) != len(rows) for column in columns):
            raise file_trouble(
                f"{self.name}: rows {block.first_row:,} to {block.first_row + block.count - 1:,} cannot be told"
                " apart",
                "Line ends or quotes in these rows are of mixed kinds; mend them in the extract.",
            )
        if self.rows is not None and block.first_row + block.count - 1 > self.rows:
            count = int(np.searchsorted(rows, self.rows, side="right"))
            rows, columns = rows[:count], [column.slice(0, count) for column in columns]
            unfit = {index: reason for index, reason in unfit.items() if block.first_row + index <= self.rows}
        columns, nulls = self._null_words(columns)
        reasons = tuple(UnfitRow(block.first_row + index, unfit[index]) for index in sorted(unfit))
        return Parsed(Batch(tuple(columns), rows, block), reasons, nulls, padded)

    # What Arrow is given

    def _read(
        self, block: Block, unfit: dict[int, str], altered: dict[int, bytes]
    ) -> tuple[list[Any], dict[int, int]]:
        """The columns of all records but the unfit, and the number of fields of ragged ones, by record."""
        data = block.data
        if unfit or altered or block.has_gaps:
            pieces = []
            for index in range(block.count):
                if index in altered and index not in unfit:
                    pieces.append(altered[index])
                elif index not in unfit:
                    pieces.append(data[block.starts[index] : block.ends[index]])
            data = b"\n".join(pieces) + b"\n" if pieces else b""
        if not data or block.count == len(unfit):
            return [pa.array([], pa.string()) for _ in self.names], {}
        width = len(self.names) + self.skipped
        if not data.endswith(b"\n"):
            data += b"\n"  # without it Arrow takes an empty last field for what the one before it was
        separator, data = self._one_byte_delimiter(data)
        # Arrow takes a byte order mark off the front of whatever it reads; here it is data.
        guarded = data.startswith(BYTE_ORDER_MARK)
        if guarded:
            data = b"\n" + data
        ragged: dict[int, int] = {}
        kept = [index for index in range(block.count) if index not in unfit] if unfit else None
        one_column = width == 1

        def note(row: Any) -> str:
            ordinal = row.number - 1 - (guarded and one_column)
            ragged[kept[ordinal] if kept else ordinal] = row.actual_columns
            return "skip"

        keys = [str(number) for number in range(width)]
        table = pyarrow.csv.read_csv(
            pa.BufferReader(data),
            pyarrow.csv.ReadOptions(use_threads=False, block_size=max(64, len(data) + 1), column_names=keys),
            pyarrow.csv.ParseOptions(
                delimiter=separator,
                quote_char=self.dialect.quote,
                escape_char=self.dialect.escape or False,
                newlines_in_values=True,
                ignore_empty_lines=not one_column,
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
        if guarded and one_column:
            table = table.slice(1)
        columns = [_one_chunk(column) for column in table.columns[self.skipped :]]
        if separator != self.dialect.delimiter:
            columns = [
                pc.replace_substring(column, pattern=separator, replacement=self.dialect.delimiter)
                for column in columns
            ]
        return columns, ragged

    def _one_byte_delimiter(self, data: bytes) -> tuple[str, bytes]:
        """Arrow splits at one byte: a delimiter of several is exchanged for a byte that the data lacks."""
        delimiter = self.dialect.delimiter.encode()
        if len(delimiter) == 1:
            return self.dialect.delimiter, data
        free = next((byte for byte in FREE_BYTES if byte not in data), None)
        if free is None:
            raise file_trouble(
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
        for index in {block.index_at(position) for position in lone.tolist()}:
            fields = split_record(block.record(index), self.dialect.spelling)
            altered[index] = delimiter.join(
                quote + field.replace(quote, quote * 2) + quote
                if b"\r" in field and not field.startswith(quote)
                else field
                for field in fields
            )

    # What no reader could make sense of

    def _refuse_bad_bytes(self, block: Block) -> None:
        if b"\0" in block.data:
            raise self._bad_byte(block, block.data.index(b"\0"), "a NUL byte", NUL_ADVICE)
        if block.data.isascii():
            return
        whole = pa.Array.from_buffers(
            pa.binary(),
            1,
            [None, pa.py_buffer(np.array([0, len(block.data)], np.int32)), pa.py_buffer(block.data)],
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
        field = len(split_record(before, self.dialect.spelling))
        field -= self.skipped
        column = f', column "{self.names[field - 1]}"' if 1 <= field <= len(self.names) else ""
        return file_trouble(
            f"{self.name}, line {line}: row {block.first_row + index:,}{column} holds {what}", advice
        )

    def _null_words(self, columns: list[Any]) -> tuple[list[Any], int]:
        if not self.null_words:
            return columns, 0
        matcher = WholeMatcher(self.null_words)
        out, made = [], 0
        for column in columns:
            found = match_whole(column, matcher).codes >= 0
            count = int(np.count_nonzero(found))
            made += count
            out.append(with_nulls(column, found) if count else column)
        return out, made


NUL_ADVICE = "Text holds no NUL bytes: the file may be damaged, or in UTF-16, or no text at all."


def _one_chunk(column: Any) -> Any:
    if column.num_chunks == 1:
        return column.chunk(0)
    return pa.concat_arrays(column.chunks) if column.num_chunks else pa.array([], pa.string())
