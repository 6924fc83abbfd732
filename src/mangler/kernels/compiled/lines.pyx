# cython: language_level=3
"""Columns to lines of delimited text, and how many lines some text has."""

from libc.stdint cimport int32_t, int64_t, uint8_t, uint32_t, uint64_t
from libc.stdlib cimport free, malloc
from libc.string cimport memcmp, memcpy

from mangler.kernels.compiled.cells cimport Cells, held_cells, is_null
from mangler.kernels.compiled.words cimport SLACK, any_of_16, bits_set, copy_short, holds_any, odd_so_far, same

cdef extern from *:
    void prefetch "__builtin_prefetch"(const void*) noexcept nogil

cdef enum:
    AHEAD = 512  # so many bytes ahead a column is asked for: more columns than the processor follows by itself
    LINE_FEED = 10
    RETURN = 13
    AT_ONCE = 64  # rows that room is looked for together
    QUOTED = 0x80000000  # as `records.split` flags places
    PLACE = 0x3FFFFFFF

cdef struct Marks:
    uint8_t delimiter
    uint8_t quote
    bint quote_all
    const uint8_t* nulls
    Py_ssize_t nulls_size
    const uint8_t* line_end
    Py_ssize_t line_end_size


cdef struct Written:
    Cells cells
    bint has_marks  # whether any cell may need quotes for what is in it
    const uint32_t* first  # of fields that are written as they were read, where the first of a row is; else NULL
    const uint32_t* last  # where the last is
    Py_ssize_t stride  # from one row to the next
    const uint8_t* text
    const int64_t* rows  # the record of each line; NULL: that of its number


def render(
    list columns, Py_ssize_t count, uint8_t delimiter, uint8_t quote, bytes line_end, bytes nulls, bint quote_all,
    const uint8_t[::1] text, const uint32_t[::1] places, Py_ssize_t fields, const int64_t[::1] rows,
):
    """The lines of text columns. Quoted are cells that need it: empty ones, the word for null, and what has marks.

    A pair of numbers stands for columns that are fields of the records that were read, from the first to the second:
    these are written as they are in `text`. `places` has the places of so many `fields` of each record; `rows` says
    which record each line is of, where that is not its own number.
    """
    import numpy as np  # late: `mangler --version` loads these modules, and not NumPy

    cdef Py_ssize_t width = len(columns), row = 0, last, at = 0, room, column
    cdef Marks marks = Marks(delimiter, quote, quote_all, nulls, len(nulls), line_end, len(line_end))
    cdef Written* cells = <Written*>malloc(width * sizeof(Written))
    cdef uint8_t[::1] out
    if cells == NULL:
        raise MemoryError
    try:
        held = []
        room = 1024 + count * (width + marks.line_end_size)
        for column, one in enumerate(columns):
            cells[column].first = NULL
            if isinstance(one, tuple):
                if count:
                    as_read(&cells[column], one[0], one[1], text, places, fields, rows, count)
                    room += stretch(&cells[column], 0, count)
                continue
            held.append(held_cells(one, &cells[column].cells))
            if count:
                look_for_marks(&cells[column], count, &marks)
                # Marks come in pairs, often a comma or two in every cell of prose.
                room += cells[column].cells.offsets[count] - cells[column].cells.offsets[0]
                room += count * 2 if cells[column].has_marks else count >> 3
        found = np.empty(room, np.uint8)
        out = found
        while True:
            with nogil:
                while row < count:
                    last = min(row + AT_ONCE, count)
                    if needed(cells, width, row, last, &marks) > room - at:
                        last = row + 1
                        if needed(cells, width, row, last, &marks) > room - at:
                            break
                    while row < last:
                        at += render_row(cells, width, row, &marks, &out[at])
                        row += 1
            if row == count:
                return found[:at]
            room += (room >> 1) + needed(cells, width, row, row + 1, &marks)
            more = np.empty(room, np.uint8)
            more[:at] = found[:at]
            out = found = more
    finally:
        free(cells)


cdef void as_read(
    Written* column, Py_ssize_t first, Py_ssize_t last, const uint8_t[::1] text, const uint32_t[::1] places,
    Py_ssize_t fields, const int64_t[::1] rows, Py_ssize_t count,
) except *:
    cdef Py_ssize_t known = places.shape[0] // max(1, 2 * fields), row
    cdef bint is_known = rows.shape[0] >= count if rows.shape[0] else known >= count
    for row in range(rows.shape[0]):
        is_known = is_known and 0 <= rows[row] < known
    if first < 0 or last < first or last >= fields or not is_known:
        raise IndexError("these fields were not read")
    column.rows = &rows[0] if rows.shape[0] else NULL
    column.first, column.last = &places[2 * first], &places[2 * last]
    column.stride, column.text = 2 * fields, &text[0]
    column.cells.size = text.shape[0]


cdef inline Py_ssize_t field_start(Written* column, Py_ssize_t row) noexcept nogil:
    """Where the first field of a line starts, with its quote."""
    cdef uint32_t place = column.first[(row if column.rows == NULL else column.rows[row]) * column.stride]
    return (place & PLACE) - (1 if place & QUOTED else 0)


cdef inline Py_ssize_t field_end(Written* column, Py_ssize_t row) noexcept nogil:
    cdef const uint32_t* last = column.last + (row if column.rows == NULL else column.rows[row]) * column.stride
    return <Py_ssize_t>last[1] + (1 if last[0] & QUOTED else 0)


cdef inline Py_ssize_t stretch(Written* column, Py_ssize_t first, Py_ssize_t last) noexcept nogil:
    """The bytes of some lines' fields, and not what is between them: in a wide table that may be many times as much."""
    cdef Py_ssize_t size = 0, row
    for row in range(first, last):
        size += field_end(column, row) - field_start(column, row)
    return size


cdef inline void look_for_marks(Written* column, Py_ssize_t count, Marks* marks) noexcept nogil:
    cdef Py_ssize_t first = column.cells.offsets[0]
    column.has_marks = marks.quote_all or holds_any(
        column.cells.data + first, column.cells.offsets[count] - first, marks.delimiter, marks.quote, LINE_FEED, RETURN
    )


cdef inline Py_ssize_t needed(
    Written* cells, Py_ssize_t width, Py_ssize_t first, Py_ssize_t last, Marks* marks
) noexcept nogil:
    """More bytes than some rows can have, and those that copying touches behind them."""
    cdef Py_ssize_t column, most = (last - first) * (width * (marks.nulls_size + 3) + marks.line_end_size) + SLACK
    for column in range(width):
        if cells[column].first != NULL:
            most += stretch(&cells[column], first, last)
        else:
            most += 2 * (cells[column].cells.offsets[last] - cells[column].cells.offsets[first])
    return most


cdef inline Py_ssize_t render_row(
    Written* cells, Py_ssize_t width, Py_ssize_t row, Marks* marks, uint8_t* out
) noexcept nogil:
    cdef Py_ssize_t column, start, size, at = 0
    cdef Cells* own
    for column in range(width):
        if column:
            out[at] = marks.delimiter
            at += 1
        own = &cells[column].cells
        if cells[column].first != NULL:
            start = field_start(&cells[column], row)
            size = field_end(&cells[column], row) - start
            copy_short(out + at, cells[column].text + start, size, start + size + SLACK <= own.size)
            at += size
            continue
        if is_null(own, row):
            if marks.nulls_size:
                memcpy(out + at, marks.nulls, marks.nulls_size)
                at += marks.nulls_size
            continue
        start = own.offsets[row]
        size = own.offsets[row + 1] - start
        prefetch(own.data + start + AHEAD)
        at += render_cell(own.data + start, size, own.size - start, cells[column].has_marks, marks, out + at)
    out[at] = marks.line_end[0]
    if marks.line_end_size > 1:
        out[at + 1] = marks.line_end[1]
    return at + marks.line_end_size


cdef inline Py_ssize_t render_cell(
    const uint8_t* cell, Py_ssize_t size, Py_ssize_t readable, bint may_have_marks, Marks* marks, uint8_t* out
) noexcept nogil:
    cdef Py_ssize_t at, written
    if size and not marks.quote_all and not (may_have_marks and has_marks(cell, size, readable, marks)) and not (
        size == marks.nulls_size and memcmp(cell, marks.nulls, size) == 0
    ):
        copy_short(out, cell, size, size + SLACK <= readable)
        return size
    out[0] = marks.quote
    written = 1
    for at in range(size):
        out[written] = cell[at]
        written += 1
        if cell[at] == marks.quote:
            out[written] = marks.quote
            written += 1
    out[written] = marks.quote
    return written + 1


cdef inline bint has_marks(const uint8_t* cell, Py_ssize_t size, Py_ssize_t readable, Marks* marks) noexcept nogil:
    cdef Py_ssize_t at = 0
    cdef uint32_t flags
    cdef uint8_t byte
    while at < size and at + 16 <= readable:
        flags = any_of_16(cell + at, marks.delimiter, marks.quote, LINE_FEED, RETURN)
        if size - at < 16:
            flags &= (1 << (size - at)) - 1
        if flags:
            return True
        at += 16
    while at < size:
        byte = cell[at]
        if byte == marks.delimiter or byte == marks.quote or byte == LINE_FEED or byte == RETURN:
            return True
        at += 1
    return False


def count_lines(const uint8_t[::1] data, uint8_t quote):
    """How many line feeds are outside quotes. Doubled quotes inside a cell are two: behind them it is as before."""
    cdef Py_ssize_t at = 0, size = data.shape[0], lines = 0
    cdef uint64_t feeds, odd, carried = 0
    cdef const uint8_t* text = &data[0] if size else NULL
    with nogil:
        while at < size:
            feeds = same(text + at, size - at, LINE_FEED)
            odd = same(text + at, size - at, quote)
            if odd:
                odd = odd_so_far(odd)
            odd ^= carried
            feeds &= ~odd
            if feeds:
                lines += bits_set(feeds)
            carried = -(odd >> 63)  # all bits, or none
            at += 64
    return lines
