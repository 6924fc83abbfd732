# cython: language_level=3
"""What cells look like, counted for a fingerprint: their shapes, lengths and parts."""

from libc.stdint cimport int32_t, int64_t, uint8_t, uint64_t

from mangler.kernels.compiled.cells cimport Cells, held_cells, is_null
from mangler.kernels.compiled.spaces cimport trim_cell


def shapes(object array, const uint8_t[::1] table, Py_ssize_t longest, uint8_t letter, uint8_t rest):
    """The bytes and offsets of the shapes: each byte by the table, runs of letters as one, without the bytes `rest`."""
    import numpy as np

    cdef Cells cells
    cdef Py_ssize_t count = len(array), row, at, start, end, to = 0
    cdef uint8_t byte, before
    held = held_cells(array, &cells)
    offsets_found = np.zeros(count + 1, np.int32)
    content = np.empty(max(1, cells.offsets[count] - cells.offsets[0]) if count else 1, np.uint8)
    cdef int32_t[::1] offsets = offsets_found
    cdef uint8_t[::1] out = content
    with nogil:
        for row in range(count):
            start, end = cells.offsets[row], cells.offsets[row + 1]
            before = rest
            if end - start <= longest:
                for at in range(start, end):
                    byte = table[cells.data[at]]
                    if byte == rest or (byte == letter and before == letter):
                        continue
                    out[to] = before = byte
                    to += 1
            offsets[row + 1] = <int32_t>to
    return content[:to], offsets_found


def measure(object array, bytes marks, Py_ssize_t most):
    """The fewest and the most characters of cells that are not blank, how many have white space at an end, and how many
    are blank; and for each of the marks how many cells have so many parts, at most `most`. White space around a cell
    is not looked at. Nulls are not counted.
    """
    import numpy as np

    cdef Cells cells
    cdef Py_ssize_t count = len(array), row, at, start, end, stop, size, blank = 0, spaced = 0, shortest = -1, longest = -1
    cdef int mark, known = len(marks)
    cdef uint64_t[256] adds  # twelve bits for each mark, and above them for the further bytes of characters
    cdef uint64_t met
    cdef Py_ssize_t[5] times
    held = held_cells(array, &cells)
    if known > 4:
        raise ValueError("four marks at most")
    parts_found = np.zeros((known, most + 1), np.int64)
    cdef int64_t[:, ::1] parts = parts_found
    for mark in range(256):
        adds[mark] = <uint64_t>1 << 48 if 0x80 <= mark < 0xC0 else 0
    for mark in range(known):
        adds[<uint8_t>marks[mark]] = <uint64_t>1 << (12 * mark)
    with nogil:
        for row in range(count):
            if is_null(&cells, row):
                continue
            start, end = cells.offsets[row], cells.offsets[row + 1]
            trim_cell(cells.data, &start, &end, True, True)
            spaced += end - start != cells.offsets[row + 1] - cells.offsets[row]
            if start == end:
                blank += 1
                continue
            size, at, met = end - start, start, 0
            for mark in range(5):
                times[mark] = 0
            while at < end:
                stop = min(end, at + 4095)  # so many fit into twelve bits
                while at < stop:
                    met += adds[cells.data[at]]
                    at += 1
                if met:
                    for mark in range(5):
                        times[mark] += (met >> (12 * mark)) & 0xFFF
                    met = 0
            size -= times[4]
            shortest = size if shortest < 0 or size < shortest else shortest
            longest = size if size > longest else longest
            for mark in range(known):
                if times[mark]:
                    parts[mark, min(times[mark] + 1, most)] += 1
    return shortest, longest, spaced, blank, parts_found


def opened_by(object array, const uint8_t[::1] table):
    """The cells, by number, whose first byte is one that the table flags; nulls and empty cells are not among them."""
    import numpy as np

    cdef Cells cells
    cdef Py_ssize_t count = len(array), row, found = 0
    held = held_cells(array, &cells)
    rows_found = np.empty(count, np.intp)
    cdef Py_ssize_t[::1] rows = rows_found
    with nogil:
        for row in range(count):
            if cells.offsets[row + 1] > cells.offsets[row] and table[cells.data[cells.offsets[row]]] and not is_null(
                &cells, row
            ):
                rows[found] = row
                found += 1
    return rows_found[:found]
