# cython: language_level=3
"""Rows taken from text columns."""

from libc.stdint cimport INT32_MAX, int32_t, int64_t, uint8_t

from mangler.kernels.compiled.cells cimport Cells, held_cells, is_null
from mangler.kernels.compiled.words cimport SLACK, copy_short

cdef extern from *:
    void prefetch "__builtin_prefetch"(const void*) noexcept nogil

cdef enum:
    AHEAD = 16  # cells from all over a column are asked for so many rows before they are copied


def taken(object array, const int64_t[::1] rows):
    """The cells of these rows: their bytes, offsets, and bits of what is not null (None: no cell is null).

    None where they are too many bytes for one column. Every row is one of the column.
    """
    import numpy as np

    cdef Cells cells
    cdef Py_ssize_t count = rows.shape[0], index, start, size, to = 0, nulls = 0
    held = held_cells(array, &cells)
    offsets_found = np.zeros(count + 1, np.int32)
    cdef int32_t[::1] offsets = offsets_found
    cdef uint8_t[::1] valid
    valid_found = None
    if cells.valid != NULL:
        valid_found = np.zeros((count + 7) // 8, np.uint8)
        valid = valid_found
    with nogil:
        for index in range(count):
            if index + AHEAD < count:
                prefetch(cells.offsets + rows[index + AHEAD])
            if cells.valid == NULL or not is_null(&cells, rows[index]):
                to += cells.offsets[rows[index] + 1] - cells.offsets[rows[index]]
                if cells.valid != NULL:
                    valid[index >> 3] |= <uint8_t>(1 << (index & 7))
            else:
                nulls += 1
            if to > INT32_MAX:
                break
            offsets[index + 1] = <int32_t>to
    if to > INT32_MAX:
        return None
    content = np.empty(to + SLACK, np.uint8)
    cdef uint8_t[::1] out = content
    with nogil:
        for index in range(count):
            if index + AHEAD < count and cells.size:
                prefetch(cells.data + cells.offsets[rows[index + AHEAD]])
            size = offsets[index + 1] - offsets[index]
            if size:
                start = cells.offsets[rows[index]]
                # What is copied beyond the cell is written over by the next one.
                copy_short(&out[0] + offsets[index], cells.data + start, size,
                           start + size + SLACK <= cells.size)
    return content[:to], offsets_found, valid_found if nulls else None
