"""Columns to lines of delimited text, quoting only the cells that need it.

The compiled kernel does that in one pass. Without it Arrow's writer joins the columns: fast, but it either quotes every
text or refuses texts that need quotes. So the characters that it would refuse are put in as bytes that UTF-8 never
holds, and turned back in what it wrote.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.csv

from mangler.kernels import compiled
from mangler.kernels.text import bits
from mangler.kernels.text.dictionary import as_dictionary
from mangler.kernels.text.fields import NO_ROWS, Columns, FieldColumn, FieldsRead, entries_of
from mangler.kernels.text.patterns import escape, flags_of, values_recur
from mangler.kernels.text.text_view import (
    LARGEST_COLUMN,
    Bytes,
    Flags,
    Positions,
    TextArray,
    TextView,
    TooLargeError,
    cells_at,
    view,
    with_text,
)
from mangler.late_dataclass import dataclass

STAND_INS = {"quote": 0xF8, "delimiter": 0xF9, "\n": 0xFA, "\r": 0xFB, '"': 0xFC}
NO_PLACES = np.zeros(0, np.uint32)
WIRE_DELIMITER = "\x1f"
"""Between columns while a delimiter of several bytes is written."""


@dataclass(frozen=True)
class Layout:
    """How lines are spelled. `delimiter` is one character or several, `quote` an ASCII one.

    Beside a delimiter of several characters, one of them at the end of a cell would be taken for its start: so each
    cell that holds any of them is quoted.

    `nulls` means null, without quotes; it holds no quote, delimiter or line break itself.
    """

    delimiter: str = ","
    quote: str = '"'
    line_end: str = "\n"
    quote_all: bool = False
    nulls: str = ""

    @property
    def wire_delimiter(self) -> str:
        """The one byte that Arrow puts between columns."""
        return self.delimiter if len(self.delimiter.encode()) == 1 else WIRE_DELIMITER


def render(columns: Sequence[TextArray], count: int, layout: Layout) -> bytes | memoryview:
    """`count` lines, each with its line end. Null and empty text come out different.

    Columns that are as they were read are written from there.
    """
    if not columns:
        return layout.line_end.encode() * count
    if compiled.lines is None or len(layout.delimiter.encode()) != 1:
        return _by_arrow(list(columns), count, layout)
    pieces, read = _pieces(columns, layout)
    lines: memoryview = compiled.lines.render(
        pieces,
        count,
        ord(layout.delimiter),
        ord(layout.quote),
        layout.line_end.encode(),
        layout.nulls.encode(),
        layout.quote_all,
        read.content if read is not None else b"",
        read.places if read is not None else NO_PLACES,
        read.width if read is not None else 0,
        read.rows if read is not None and read.rows is not None else NO_ROWS,
    ).data
    return lines


def _pieces(
    columns: Sequence[TextArray], layout: Layout
) -> tuple[list[TextArray | tuple[int, int]], FieldsRead | None]:
    """Columns, and in the place of those that are as they were read the first and the last field of each run of
    neighbours among the fields of a record; and these fields."""
    as_read = [_field_of(one, layout) for one in entries_of(columns)]
    others = [index for index, field in enumerate(as_read) if field is None]
    arrays = iter(columns.made(others) if isinstance(columns, Columns) else columns)
    found: list[TextArray | tuple[int, int]] = []
    for field in as_read:
        if field is None:
            found.append(next(arrays))
        elif found and isinstance(found[-1], tuple) and found[-1][1] == field - 1:
            found[-1] = (found[-1][0], field)
        else:
            found.append((field, field))
    read = next((one.read for one in entries_of(columns) if isinstance(one, FieldColumn)), None)
    return found, read


def _field_of(one: TextArray | FieldColumn, layout: Layout) -> int | None:
    """The number of a field that is written as it was read; None where a column has to be rendered."""
    if not isinstance(one, FieldColumn):
        return None
    read = one.read
    fits = (layout.delimiter, layout.quote) == (read.delimiter, read.quote)
    as_it_is = fits and not layout.quote_all and not layout.nulls and read.as_is[one.field]
    return one.field if as_it_is else None


def _by_arrow(columns: Sequence[TextArray], count: int, layout: Layout) -> bytes | memoryview:
    if sum(column.nbytes for column in columns) > LARGEST_COLUMN // 3:
        if count > 1:
            raise TooLargeError("these rows are too large to be written at once")
        return _one_line([column[0].as_py() for column in columns], layout)
    quoted = [_quote(column, layout) for column in columns]
    sink = pa.BufferOutputStream()
    pyarrow.csv.write_csv(
        pa.RecordBatch.from_arrays(
            [column for column, _ in quoted], names=list(map(str, range(len(quoted))))
        ),
        sink,
        pyarrow.csv.WriteOptions(
            include_header=False,
            delimiter=layout.wire_delimiter,
            quoting_style="none",
            eol=layout.line_end,
            null_string=layout.nulls,
            batch_size=max(1, count),
        ),
    )
    written = sink.getvalue()
    stands_in = any(used for _, used in quoted)
    wide = layout.wire_delimiter != layout.delimiter
    if not stands_in and not wide:
        return memoryview(written)
    lines: bytes = written.to_pybytes()
    if wide:
        lines = lines.replace(layout.wire_delimiter.encode(), layout.delimiter.encode())
    return lines.translate(_turn_back(layout)) if stands_in else lines


def _one_line(cells: Sequence[str | None], layout: Layout) -> bytes:
    """A row that is larger than Arrow's writer can take with what has to be put in."""
    spelled = (layout.nulls if cell is None else quote_text(cell, layout) for cell in cells)
    return b"".join([layout.delimiter.join(spelled).encode(), layout.line_end.encode()])


def quote_text(text: str, layout: Layout) -> str:
    """One cell as it is written; for headers and the columns that Mangler puts in front."""
    needs = layout.quote_all or text == "" or text == layout.nulls
    if needs or any(mark in text for mark in (*layout.delimiter, layout.quote, "\n", "\r")):
        return f"{layout.quote}{text.replace(layout.quote, layout.quote * 2)}{layout.quote}"
    return text


def quote_texts(texts: TextArray, layout: Layout) -> TextArray:
    """Many cells as they are written, none of them null."""
    if layout.quote_all:
        needs = pa.repeat(True, len(texts))
    else:
        special = "".join(map(escape, (layout.delimiter, layout.quote)))
        needs = pc.match_substring_regex(texts, pattern=f"[{special}\n\r]|^$")
    doubled = pc.replace_substring(texts, pattern=layout.quote, replacement=layout.quote * 2)
    quoted = pc.binary_join_element_wise(layout.quote, doubled, layout.quote, "")
    return pc.if_else(needs, quoted, texts)


def _turn_back(layout: Layout) -> bytes:
    table = bytearray(range(256))
    table[STAND_INS["quote"]] = ord(layout.quote)
    table[STAND_INS["delimiter"]] = ord(layout.wire_delimiter)
    table[STAND_INS["\n"]] = 10
    table[STAND_INS["\r"]] = 13
    table[STAND_INS['"']] = ord('"')
    return bytes(table)


def _quote(column: TextArray, layout: Layout) -> tuple[TextArray, bool]:
    """The column ready for Arrow's writer, and whether substitutes were put in."""
    cells = view(column)
    special = _needing_quotes(cells, layout)
    if special.any() and values_recur(column):
        encoded = as_dictionary(column)
        values = view(encoded.dictionary)
        quoted, _ = _quote_cells(encoded.dictionary, values, _needing_quotes(values, layout), layout)
        return quoted.take(encoded.indices), True
    return _quote_cells(column, cells, special, layout)


def _quote_cells(
    column: TextArray, cells: TextView, special: Flags, layout: Layout
) -> tuple[TextArray, bool]:
    needs = _cells_needing_quotes(column, cells, special, layout)
    refused = _refused_by_arrow(cells, layout)
    if refused is not None:
        special = special | refused
    elif needs is None:
        return column, False
    if needs is None:
        needs = np.zeros(len(column), np.bool_)
    return _put_quotes(cells, np.flatnonzero(special), needs, layout), True


def _needing_quotes(cells: TextView, layout: Layout) -> Flags:
    """Bytes that cannot be in a cell without quotes; a delimiter of several bytes is looked for elsewhere."""
    data = cells.data
    flags: Flags = data == ord(layout.quote)
    flags |= data == 10
    flags |= data == 13
    if layout.wire_delimiter == layout.delimiter:
        flags |= data == ord(layout.delimiter)
    return flags


def _refused_by_arrow(cells: TextView, layout: Layout) -> Flags | None:
    """Bytes that need no quotes here, but that Arrow's writer does not let pass; None when there are none."""
    if layout.wire_delimiter == layout.delimiter and layout.quote == '"':
        return None
    flags = np.zeros(len(cells.data), np.bool_)
    if layout.wire_delimiter != layout.delimiter:
        flags |= cells.data == ord(layout.wire_delimiter)
    if layout.quote != '"':
        flags |= cells.data == ord('"')
    return flags if flags.any() else None


def _cells_needing_quotes(column: TextArray, cells: TextView, special: Flags, layout: Layout) -> Flags | None:
    """The cells to quote; None when there are none."""
    if layout.quote_all:
        return cells.only_valid(np.ones(len(column), np.bool_))
    needs = cells.only_valid(cells.lengths == 0)
    if special.any():
        before = bits.counts_before(bits.pack(special), cells.offsets)
        needs |= before[1:] > before[:-1]
    if layout.nulls:
        needs |= flags_of(pc.equal(column, layout.nulls))
    if layout.wire_delimiter != layout.delimiter:
        marks = "".join(map(escape, layout.delimiter))
        needs |= flags_of(pc.match_substring_regex(column, pattern=f"[{marks}]"))
    needs = cells.only_valid(needs)
    # Bytes under nulls would disturb the writer as well.
    return needs if needs.any() or special.any() else None


def _put_quotes(cells: TextView, special: Positions, needs: Flags, layout: Layout) -> TextArray:
    """Quotes round the cells and doubled inside them, everything special as its substitute."""
    around = np.flatnonzero(needs)
    positions: Positions = (
        np.stack((cells.starts[around], cells.ends[around]), axis=1).ravel().astype(np.intp)
    )
    longer_by = np.zeros(len(needs) + 1, np.int32)
    longer_by[around + 1] = 2
    data = cells.data
    if len(special):
        data = data.copy()
        met = data[special]
        inner = special[met == ord(layout.quote)]
        data[special] = _stand_in_table(layout)[met]
        if len(inner):
            of_cell = cells_at(cells.offsets, inner)
            if cells.valid is not None:  # bytes under nulls are never written, and stay as many
                inner, of_cell = inner[cells.valid[of_cell]], of_cell[cells.valid[of_cell]]
            np.add.at(longer_by, of_cell + 1, 1)
            positions = np.concatenate((positions, inner))
            positions.sort()
    offsets = cells.offsets + np.cumsum(longer_by, dtype=np.int32)
    return with_text(cells.array, _insert(data, positions, STAND_INS["quote"]), offsets)


def _insert(data: Bytes, positions: Positions, byte: int) -> Bytes:
    """The data with one more byte before each of these positions, which are in order."""
    out = np.full(len(data) + len(positions), byte, np.uint8)
    keeps = np.ones(len(out), np.bool_)
    keeps[positions + np.arange(len(positions))] = False
    out[keeps] = data
    return out


def _stand_in_table(layout: Layout) -> Bytes:
    table = np.arange(256, dtype=np.uint8)
    table[ord(layout.wire_delimiter)] = STAND_INS["delimiter"]
    table[10], table[13] = STAND_INS["\n"], STAND_INS["\r"]
    table[ord('"')] = STAND_INS['"']
    table[ord(layout.quote)] = STAND_INS["quote"]
    return table
