# cython: language_level=3
"""What cells look like, counted for a fingerprint: their shapes, lengths and parts; and which values are the same."""

from libc.stdint cimport int16_t, int32_t, int64_t, uint8_t, uint32_t, uint64_t
from libc.string cimport memcmp, memcpy, memset

from mangler.kernels.compiled.cells cimport Cells, held_cells, is_null
from mangler.kernels.compiled.spaces cimport may_be_trimmed, trim_cell
from mangler.kernels.compiled.words cimport any_of_16, bits_set, further_of_16, holds_any, is_ascii, trailing_zeros


def shapes(object array, const uint8_t[::1] table, Py_ssize_t longest, uint8_t letter, uint8_t rest):
    """The bytes and offsets of the shapes: each byte by the table, runs of letters as one, without the bytes `rest`."""
    import numpy as np

    cdef Cells cells
    cdef Py_ssize_t count = len(array), row, to = 0
    held = held_cells(array, &cells)
    offsets_found = np.zeros(count + 1, np.int32)
    content = np.empty((cells.offsets[count] - cells.offsets[0] if count else 0) + 1, np.uint8)  # one is touched more
    cdef int32_t[::1] offsets = offsets_found
    cdef uint8_t[::1] out = content
    with nogil:
        for row in range(count):
            to += shape_of(cells.data, cells.offsets[row], cells.offsets[row + 1], &table[0], longest, letter, rest, &out[to])
            offsets[row + 1] = <int32_t>to
    return content[:to], offsets_found


def shape_codes(object array, const uint8_t[::1] table, Py_ssize_t longest, uint8_t letter, uint8_t rest):
    """The number of each cell's shape, in the order in which they are met first, and the bytes and offsets of the
    shapes; None where there are more than a few of them. A null has the shape of the bytes that are under it."""
    import numpy as np

    cdef Cells cells, own
    cdef Known known
    cdef Py_ssize_t count = len(array), row, to = 0
    cdef int32_t code = 0
    held = held_cells(array, &cells)
    codes_found, offsets_found = np.empty(count, np.int32), np.zeros(MOST + 2, np.int32)
    content = np.empty((MOST + 1) * longest + 16, np.uint8)
    cdef int32_t[::1] codes = codes_found, offsets = offsets_found
    cdef uint8_t[::1] out = content
    forget(&known)
    own.data, own.size, own.offsets, own.valid, own.skip = &out[0], content.size, &offsets[0], NULL, 0
    with nogil:
        for row in range(count):
            # It is written behind those that are known, and stays where it is none of them.
            to = offsets[known.count]
            to += shape_of(cells.data, cells.offsets[row], cells.offsets[row + 1], &table[0], longest, letter, rest, &out[to])
            offsets[known.count + 1] = <int32_t>to
            code = code_of(&own, known.count, &known)
            if code < 0:
                break
            codes[row] = code
    if code < 0:
        return None
    return codes_found, content[: offsets[known.count]], offsets_found[: known.count + 1]


cdef inline Py_ssize_t shape_of(
    const uint8_t* text, Py_ssize_t start, Py_ssize_t end, const uint8_t* table, Py_ssize_t longest, uint8_t letter,
    uint8_t rest, uint8_t* out,
) noexcept nogil:
    cdef Py_ssize_t at, to = 0
    cdef uint8_t byte, before = rest
    cdef bint counts
    if end - start > longest:
        return 0
    for at in range(start, end):
        byte = table[text[at]]
        # It is written anyway, and stays where it counts: nobody could guess which bytes do.
        out[to] = byte
        counts = byte != rest and not (byte == letter and before == letter)
        to += counts
        before = byte if counts else before
    return to


def measure(object array, bytes marks, Py_ssize_t most):
    """The fewest and the most characters of cells that are not blank, how many have white space at an end, and how many
    are blank; and for each of the marks how many cells have so many parts, at most `most`. White space around a cell
    is not looked at. Nulls are not counted.
    """
    import numpy as np

    cdef Cells cells
    cdef Py_ssize_t count = len(array), row, start, end, size, blank = 0, spaced = 0, shortest = -1, longest = -1
    cdef int mark, known = len(marks)
    cdef bint is_marked
    cdef Py_ssize_t[4] times
    cdef Sought sought
    held = held_cells(array, &cells)
    if not 1 <= known <= 4:
        raise ValueError("one to four marks")
    parts_found = np.zeros((known, most + 1), np.int64)
    cdef int64_t[:, ::1] parts = parts_found
    for mark in range(4):
        sought.marks[mark] = marks[min(mark, known - 1)]
    cdef uint8_t* each = sought.marks
    with nogil:
        if count:
            start, size = cells.offsets[0], cells.offsets[count] - cells.offsets[0]
            sought.is_there = not is_ascii(cells.data + start, size) or holds_any(
                cells.data + start, size, each[0], each[1], each[2], each[3]
            )
        for row in range(count):
            if is_null(&cells, row):
                continue
            start, end = cells.offsets[row], cells.offsets[row + 1]
            if may_be_trimmed(cells.data, start, end):
                trim_cell(cells.data, &start, &end, True, True)
                spaced += end - start != cells.offsets[row + 1] - cells.offsets[row]
            if start == end:
                blank += 1
                continue
            is_marked, size = False, end - start
            if sought.is_there:
                size -= look_into(&cells, start, end, &sought, times, &is_marked)
            shortest = size if shortest < 0 or size < shortest else shortest
            longest = size if size > longest else longest
            if is_marked:
                for mark in range(known):
                    if times[mark]:
                        parts[mark, min(times[mark] + 1, most)] += 1
    return shortest, longest, spaced, blank, parts_found


cdef struct Sought:
    uint8_t[4] marks
    bint is_there  # whether any cell has one of them, or a character of several bytes


cdef inline Py_ssize_t look_into(
    Cells* cells, Py_ssize_t at, Py_ssize_t end, Sought* sought, Py_ssize_t* times, bint* is_marked
) noexcept nogil:
    """Counts the marks of a cell, where it has any, and gives how many of its bytes are further ones of characters."""
    cdef Py_ssize_t further = 0, left
    cdef uint32_t met, rest
    cdef uint8_t[16] last
    cdef const uint8_t* part
    cdef uint8_t* marks = sought.marks
    cdef int mark
    while at < end:
        left, part = end - at, cells.data + at
        if at + 16 > cells.size:
            memset(last, 0, 16)
            memcpy(last, part, min(left, 16))
            part = last
        met, rest = any_of_16(part, marks[0], marks[1], marks[2], marks[3]), further_of_16(part)
        if left < 16:
            met &= (1 << left) - 1
            rest &= (1 << left) - 1
        if met and not is_marked[0]:
            is_marked[0] = True
            times[0] = times[1] = times[2] = times[3] = 0
        while met:
            for mark in range(4):
                if part[trailing_zeros(met)] == marks[mark]:
                    times[mark] += 1
                    break
            met &= met - 1
        if rest:
            further += bits_set(rest)
        at += 16
    return further


def letter_cases(object array):
    """For each cell the number of its letter case: 0 without letters, then lower, upper, title and mixed; None where
    any has a byte beyond ASCII."""
    import numpy as np

    cdef Cells cells
    cdef Py_ssize_t count = len(array), row, at, start, end, uppers, lowers
    cdef uint8_t byte, met = 0
    cdef bint is_upper, is_title
    held = held_cells(array, &cells)
    found = np.empty(count, np.uint8)
    cdef uint8_t[::1] cases = found
    with nogil:
        for row in range(count):
            start, end, uppers, lowers = cells.offsets[row], cells.offsets[row + 1], 0, 0
            is_title = True
            for at in range(start, end):
                byte = cells.data[at]
                met |= byte
                is_upper = <uint8_t>(byte - 65) < 26  # A to Z
                uppers += is_upper
                lowers += <uint8_t>(byte - 97) < 26  # a to z
                is_title &= lowers == 0 if at == start else not is_upper
            cases[row] = 0 if not (uppers or lowers) else 1 if not uppers else 2 if not lowers else 3 if is_title else 4
    return None if met & 0x80 else found


# Cells of few values

cdef enum:
    MOST = 2048  # values that `distinct` distinguishes
    SLOTS = 8192  # so many more that few of them meet


cdef struct Short:
    uint64_t first, last  # of its bytes, eight each, which overlap where it has less than sixteen
    Py_ssize_t size


cdef struct Known:
    Short[MOST] shorts  # of longer values a hash is in the place of the bytes
    int32_t[MOST] rows  # where each was met first
    int16_t[SLOTS] codes  # and 1 more; 0 where there is none
    int32_t count
    int32_t null_code


def distinct(object array, bint null_is_value):
    """For each cell the number of its value, in the order in which they are met first, and these first cells; None
    where there are more than a few values. A null has a number of its own with `null_is_value`, else any."""
    import numpy as np

    cdef Cells cells
    cdef Known known
    cdef Py_ssize_t count = len(array), row
    cdef int32_t code = 0
    held = held_cells(array, &cells)
    codes_found = np.empty(count, np.int32)
    cdef int32_t[::1] codes = codes_found
    forget(&known)
    with nogil:
        for row in range(count):
            if is_null(&cells, row):
                code = 0
                if null_is_value:
                    if known.null_code < 0 and known.count < MOST:
                        known.null_code = known.count
                        known.rows[known.count] = <int32_t>row
                        known.count += 1
                    code = known.null_code
            else:
                code = code_of(&cells, row, &known)
            if code < 0:
                break
            codes[row] = code
    if code < 0:
        return None
    first_found = np.empty(known.count, np.int32)
    cdef int32_t[::1] first = first_found
    for row in range(known.count):
        first[row] = known.rows[row]
    return codes_found, first_found


cdef inline void forget(Known* known) noexcept nogil:
    memset(known.codes, 0, sizeof(known.codes))
    known.count, known.null_code = 0, -1


cdef inline int32_t code_of(Cells* cells, Py_ssize_t row, Known* known) noexcept nogil:
    """-1 where there are too many values."""
    cdef Py_ssize_t start = cells.offsets[row]
    cdef const uint8_t* cell = cells.data + start
    cdef Short short
    cdef Short* other
    cdef int slot
    cdef int32_t code
    short.size = cells.offsets[row + 1] - start
    shorten(&short, cell, cells.size - start)
    slot = ((short.first * 0x9E3779B97F4A7C15ULL ^ short.last) * 0xD6E8FEB86659FD93ULL + short.size) >> 51
    while known.codes[slot]:
        code = known.codes[slot] - 1
        other = &known.shorts[code]
        if other.first == short.first and other.last == short.last and other.size == short.size and (
            short.size <= 16 or memcmp(cell, cells.data + cells.offsets[known.rows[code]], short.size) == 0
        ):
            return code
        slot = (slot + 1) & (SLOTS - 1)
    if known.count == MOST:
        return -1
    known.shorts[known.count], known.rows[known.count] = short, <int32_t>row
    known.count += 1
    known.codes[slot] = <int16_t>known.count
    return known.count - 1


cdef inline void shorten(Short* short, const uint8_t* cell, Py_ssize_t readable) noexcept nogil:
    cdef Py_ssize_t size = short.size, at = 8
    cdef uint64_t word
    short.first = short.last = 0
    if size >= 8:
        memcpy(&short.first, cell, 8)
        memcpy(&short.last, cell + size - 8, 8)
        while at + 8 < size - 8:
            memcpy(&word, cell + at, 8)
            short.first = (short.first ^ (short.first >> 31) ^ word) * 0x9E3779B97F4A7C15ULL
            at += 8
        if at < size - 8:
            memcpy(&word, cell + size - 16, 8)
            short.first = (short.first ^ (short.first >> 31) ^ word) * 0x9E3779B97F4A7C15ULL
    elif size and readable >= 8:
        memcpy(&short.first, cell, 8)
        short.first &= ((<uint64_t>1) << (8 * size)) - 1
    elif size:
        memcpy(&short.first, cell, size)


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
