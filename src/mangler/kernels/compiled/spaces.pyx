# cython: language_level=3
"""White space off cells and out of them, and cells that are one of some words but for white space around."""

from libc.stdint cimport int16_t, int32_t, uint8_t, uint32_t
from libc.string cimport memcmp, memcpy

from mangler.blanks import BLANKS, LINE_BREAKS, ZERO_WIDTH
from mangler.kernels.compiled.cells cimport Cells, held_cells, is_null
from mangler.kernels.compiled.words cimport trailing_zeros, unlike_ink_of_16

cdef enum:
    INK, SPACE, LINE_BREAK, NO_WIDTH, LEAD  # LEAD: a character of several bytes that may be blank

cdef enum:
    TRIM_LEFT = 1
    TRIM_RIGHT = 2
    SQUEEZE = 4
    ONE_LINE = 8

cdef uint8_t[256] KINDS
"""Of each byte that a character starts with."""
cdef uint32_t[64] WIDE
cdef uint8_t[64] WIDE_KINDS
"""The blanks of two and three bytes, the first byte lowest, and their kinds."""
cdef int wide_count = 0

for _blank in BLANKS:
    _spelled = _blank.encode()
    _kind = LINE_BREAK if _blank in LINE_BREAKS else NO_WIDTH if _blank in ZERO_WIDTH else SPACE
    KINDS[_spelled[0]] = _kind if len(_spelled) == 1 else LEAD
    if len(_spelled) > 1:
        WIDE[wide_count], WIDE_KINDS[wide_count] = int.from_bytes(_spelled, "little"), _kind
        wide_count += 1


cdef inline Py_ssize_t blank_at(const uint8_t* at, Py_ssize_t left, uint8_t* kind) noexcept nogil:
    """How many bytes the blank has that is here; 0 where there is none."""
    kind[0] = KINDS[at[0]]
    if kind[0] != LEAD:
        return kind[0] != INK
    return wide_at(at, 2, left, kind) or wide_at(at, 3, left, kind)


cdef inline Py_ssize_t wide_at(const uint8_t* at, Py_ssize_t size, Py_ssize_t left, uint8_t* kind) noexcept nogil:
    cdef uint32_t packed
    cdef int index
    kind[0] = INK
    if left < size:
        return 0
    packed = at[0] | (<uint32_t>at[1] << 8) | (<uint32_t>at[2] << 16 if size == 3 else 0)
    for index in range(wide_count):
        if WIDE[index] == packed:
            kind[0] = WIDE_KINDS[index]
            return size
    return 0


cdef void trim_cell(const uint8_t* text, Py_ssize_t* start, Py_ssize_t* end, bint left, bint right) noexcept nogil:
    cdef Py_ssize_t size
    cdef uint8_t kind
    while left and start[0] < end[0]:
        size = blank_at(text + start[0], end[0] - start[0], &kind)
        if not size:
            break
        start[0] += size
    while right and start[0] < end[0]:
        if text[end[0] - 1] < 0x80:
            size = KINDS[text[end[0] - 1]] != INK
        else:
            size = 2 if end[0] - start[0] >= 2 and wide_at(text + end[0] - 2, 2, 2, &kind) else (
                3 if end[0] - start[0] >= 3 and wide_at(text + end[0] - 3, 3, 3, &kind) else 0)
        if not size:
            break
        end[0] -= size


cdef inline bint needs_squeezing(
    const uint8_t* text, Py_ssize_t start, Py_ssize_t end, Py_ssize_t readable
) noexcept nogil:
    """Whether there is more than lone spaces between other characters; a doubt is a yes."""
    cdef Py_ssize_t at = start
    cdef uint32_t flags
    cdef int place
    cdef uint8_t byte
    cdef Py_ssize_t space = start - 1  # where the last one was; one in front of all would not be alone either
    while at < end:
        if at + 16 <= readable:
            flags = unlike_ink_of_16(text + at)
            if end - at < 16:
                flags &= (1 << (end - at)) - 1
        else:
            flags = (1 << min(end - at, 16)) - 1
        while flags:
            place = trailing_zeros(flags)
            flags &= flags - 1
            byte = text[at + place]
            if byte == 32:
                if at + place == space + 1:
                    return True
                space = at + place
            elif KINDS[byte] != INK:
                return True
        at += 16
    return space == end - 1


cdef Py_ssize_t squeeze_cell(
    const uint8_t* text, Py_ssize_t start, Py_ssize_t end, int how, uint8_t* out
) noexcept nogil:
    """Writes the cell with each run of blanks as one, and gives its bytes."""
    cdef Py_ssize_t at = start, run, size, written = 0
    cdef uint8_t kind
    cdef bint has_break, has_width, vanishes
    while at < end:
        run = at
        has_break = has_width = False
        while at < end:
            size = blank_at(text + at, end - at, &kind)
            if not size:
                break
            has_break |= kind == LINE_BREAK
            has_width |= kind != NO_WIDTH
            at += size
        if at > run:
            vanishes = (run == start and how & TRIM_LEFT) or (at == end and how & TRIM_RIGHT)
            if not vanishes and (run == start or at == end):
                memcpy(out + written, text + run, at - run)
                written += at - run
            elif not vanishes and has_width:
                out[written] = 10 if has_break and not how & ONE_LINE else 32
                written += 1
        while at < end and not blank_at(text + at, end - at, &kind):
            out[written] = text[at]
            written += 1
            at += 1
    return written


def clean(object array, bint left, bint right, bint squeeze, bint lines):
    """White space off the chosen ends, with `squeeze` each run inside as one; None where nothing changes.

    Gives the bytes, the offsets, how many cells changed, and how many of them have nothing left.
    """
    import numpy as np

    cdef Cells cells
    cdef Py_ssize_t count = len(array), row, start, end, new_start, new_end, size, to = 0, copied, changed = 0, emptied = 0
    cdef int how = left * TRIM_LEFT | right * TRIM_RIGHT | squeeze * SQUEEZE | lines * ONE_LINE
    held = held_cells(array, &cells)
    if not count or cells.size == 0:
        return None
    offsets_found = np.empty(count + 1, np.int32)
    cdef int32_t[::1] offsets = offsets_found
    cdef uint8_t[::1] out
    cdef const uint8_t* text = cells.data
    cdef bint touched, has_content = False
    content = None
    copied = cells.offsets[0]  # what lies between this and a cell that changes is copied as it is
    offsets[0] = 0
    with nogil:
        for row in range(count):
            start, end = cells.offsets[row], cells.offsets[row + 1]
            new_start, new_end = start, end
            touched = False
            if end > start and not is_null(&cells, row):
                if how & SQUEEZE:
                    touched = needs_squeezing(text, start, end, cells.size)
                elif may_be_trimmed(text, start, end):
                    trim_cell(text, &new_start, &new_end, left, right)
                    touched = new_end - new_start != end - start
            if touched:
                if not has_content:
                    has_content = True
                    with gil:
                        content = np.empty(cells.offsets[count] - cells.offsets[0], np.uint8)
                        out = content
                memcpy(&out[0] + to, text + copied, start - copied)
                to += start - copied
                copied = end
                if how & SQUEEZE:
                    size = squeeze_cell(text, start, end, how, &out[0] + to)
                    touched = size != end - start or memcmp(&out[0] + to, text + start, size) != 0
                else:
                    size = new_end - new_start
                    memcpy(&out[0] + to, text + new_start, size)
                to += size
                changed += touched
                emptied += touched and size == 0
            offsets[row + 1] = <int32_t>(to + end - copied)
        if changed:
            memcpy(&out[0] + to, text + copied, cells.offsets[count] - copied)
            to += cells.offsets[count] - copied
    return (content[:to], offsets_found, changed, emptied) if changed else None


def whole_words(object array, list words):
    """Which cells are one of the words, white space around them aside: the number of the first such word, or -1.

    None where no cell is. The words have no white space around them.
    """
    import numpy as np

    cdef Cells cells
    cdef Py_ssize_t count = len(array), row, start, end, found = 0
    cdef int word, known = len(words)
    cdef const uint8_t[::1] spelled = np.frombuffer(b"".join(words) or b"\0", np.uint8)
    cdef int32_t[::1] starts = np.cumsum([0, *map(len, words)]).astype(np.int32)
    held = held_cells(array, &cells)
    codes_found = np.full(count, -1, np.int16)
    cdef int16_t[::1] codes = codes_found
    cdef uint8_t[256] may_open
    cdef bint empty_too = b"" in words
    for word in range(256):
        may_open[word] = KINDS[word] != INK
    for text in words:
        if text:
            may_open[text[0]] = True
    with nogil:
        for row in range(count):
            start, end = cells.offsets[row], cells.offsets[row + 1]
            if (not may_open[cells.data[start]] if end > start else not empty_too) or is_null(&cells, row):
                continue
            if may_be_trimmed(cells.data, start, end):
                trim_cell(cells.data, &start, &end, True, True)
            for word in range(known):
                if starts[word + 1] - starts[word] == end - start and (
                    start == end or memcmp(cells.data + start, &spelled[0] + starts[word], end - start) == 0
                ):
                    codes[row] = word
                    found += 1
                    break
    return codes_found if found else None
