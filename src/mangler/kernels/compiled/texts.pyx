# cython: language_level=3
"""Several texts replaced in one pass, and cells that have a text in another letter case."""

from libc.stdint cimport int32_t, uint8_t
from libc.stdlib cimport free, malloc
from libc.string cimport memcmp, memcpy

from mangler.kernels.compiled.cells cimport Cells, held_cells, is_null

cdef struct Swap:
    const uint8_t* text
    Py_ssize_t size
    const uint8_t* other
    Py_ssize_t other_size
    int following  # the next swap whose text starts with the same byte; -1: none


def replaced(object array, list texts, list others, check):
    """Each text replaced by the other of its number: the leftmost first, and at one place the first in the list.

    Gives the bytes, the offsets and how many cells changed; None where none does. `check` is called with the number of
    bytes before they are made, and may raise.
    """
    import numpy as np

    cdef Cells cells
    cdef Py_ssize_t count = len(array), row, index, known = len(texts), hits = 0, to = 0, start, size, made, changed = 0
    cdef int[256] first
    cdef Swap* swaps = <Swap*>malloc(max(1, known) * sizeof(Swap))
    cdef uint8_t[::1] out
    cdef int32_t[::1] offsets
    held = held_cells(array, &cells)
    if swaps == NULL:
        raise MemoryError
    try:
        for index in range(256):
            first[index] = -1
        for index in reversed(range(known)):
            swaps[index] = Swap(<bytes>texts[index], len(texts[index]), <bytes>others[index], len(others[index]),
                                first[<uint8_t>texts[index][0]])
            first[<uint8_t>texts[index][0]] = index
        with nogil:
            for row in range(count if cells.size else 0):
                size = cells.offsets[row + 1] - cells.offsets[row]
                to += size if is_null(&cells, row) else fill_in(
                    cells.data + cells.offsets[row], size, swaps, first, NULL, &hits
                )
        if not hits:
            return None
        check(to)
        content, offsets_found = np.empty(max(1, to), np.uint8), np.empty(count + 1, np.int32)
        out, offsets = content, offsets_found
        to = 0
        with nogil:
            offsets[0] = 0
            for row in range(count):
                start = cells.offsets[row]
                size = cells.offsets[row + 1] - start
                if is_null(&cells, row):
                    memcpy(&out[0] + to, cells.data + start, size)
                    to += size
                else:
                    made = fill_in(cells.data + start, size, swaps, first, &out[0] + to, &hits)
                    changed += made != size or memcmp(&out[0] + to, cells.data + start, size) != 0
                    to += made
                offsets[row + 1] = <int32_t>to
        return (content[:to], offsets_found, changed) if changed else None
    finally:
        free(swaps)


cdef Py_ssize_t fill_in(
    const uint8_t* cell, Py_ssize_t size, const Swap* swaps, const int* first, uint8_t* out, Py_ssize_t* hits
) noexcept nogil:
    """The bytes that a cell has afterwards; they are written where `out` is not NULL."""
    cdef Py_ssize_t at = 0, copied = 0, written = 0
    cdef int index
    while at < size:
        index = first[cell[at]]
        while index >= 0 and (
            swaps[index].size > size - at or memcmp(cell + at, swaps[index].text, swaps[index].size) != 0
        ):
            index = swaps[index].following
        if index < 0:
            at += 1
            continue
        if out != NULL:
            memcpy(out + written, cell + copied, at - copied)
            memcpy(out + written + at - copied, swaps[index].other, swaps[index].other_size)
        written += at - copied + swaps[index].other_size
        at += swaps[index].size
        copied = at
        hits[0] += 1
    if out != NULL:
        memcpy(out + written, cell + copied, size - copied)
    return written + size - copied


def cased_otherwise(object array, bytes lower, list spelled, uint8_t[::1] flags):
    """Flags cells that hold an ASCII text, given in lower case, in another letter case than any of its spellings."""
    cdef Cells cells
    cdef Py_ssize_t count = len(array), row, at, last, size = len(lower), index, known = len(spelled)
    cdef const uint8_t* text = lower
    cdef const uint8_t** ways = <const uint8_t**>malloc(max(1, known) * sizeof(uint8_t*))
    cdef uint8_t small
    held = held_cells(array, &cells)
    if ways == NULL:
        raise MemoryError
    try:
        for index in range(known):
            ways[index] = <bytes>spelled[index]
        small = text[0]
        with nogil:
            for row in range(count if cells.size else 0):
                if is_null(&cells, row):
                    continue
                last = cells.offsets[row + 1] - size
                for at in range(cells.offsets[row], last + 1):
                    if in_lower_case(cells.data[at]) == small and is_cased_otherwise(
                        cells.data + at, text, size, ways, known
                    ):
                        flags[row] = True
                        break
    finally:
        free(ways)


cdef inline uint8_t in_lower_case(uint8_t byte) noexcept nogil:
    return byte + 32 if 65 <= byte <= 90 else byte


cdef bint is_cased_otherwise(
    const uint8_t* cell, const uint8_t* text, Py_ssize_t size, const uint8_t** ways, Py_ssize_t known
) noexcept nogil:
    cdef Py_ssize_t index
    for index in range(size):
        if in_lower_case(cell[index]) != text[index]:
            return False
    for index in range(known):
        if memcmp(cell, ways[index], size) == 0:
            return False
    return True
