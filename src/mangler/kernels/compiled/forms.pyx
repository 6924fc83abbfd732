# cython: language_level=3
"""Numbers and dates as they are mostly written, read from cells. What is written otherwise is left to other kernels."""

from libc.stdint cimport int16_t, int32_t, int64_t, uint8_t
from libc.string cimport memcmp

from mangler.kernels.compiled.cells cimport Cells, held_cells, is_null
from mangler.kernels.compiled.spaces cimport may_be_trimmed, trim_cell

cdef enum:
    LEFT, READ, WITH_ZEROS, BLANK  # the state of a cell; WITH_ZEROS: read, and zeros in front are gone

cdef enum:
    MOST_DIGITS = 18  # always fit into 64 bits

cdef enum:  # the letters of a form
    HOUR = 72
    MINUTE = 77
    SECOND = 83
    YEAR = 89
    DAY = 100
    DAY_OF_YEAR = 106
    MONTH = 109
    SHORT_YEAR = 121

cdef struct Unit:
    const uint8_t* text
    Py_ssize_t size

cdef struct Form:
    uint8_t point
    const uint8_t* grouping
    Py_ssize_t marks
    Unit[32] units
    int unit_count


def numbers(object array, uint8_t point, bytes grouping, list units, int places):
    """Whole numbers, or as many ten to the power of -`places`, and the state of each cell.

    A number has at most 18 digits with these places; a unit is before or behind it. The units come longest first.
    """
    import numpy as np

    cdef Cells cells
    cdef Py_ssize_t count = len(array), row, start, end
    cdef Form form
    held = held_cells(array, &cells)
    values_found, states_found = np.zeros(count, np.int64), np.zeros(count, np.uint8)
    cdef int64_t[::1] values = values_found
    cdef uint8_t[::1] states = states_found
    form.point, form.grouping, form.marks, form.unit_count = point, grouping, len(grouping), min(32, len(units))
    for row in range(form.unit_count):
        form.units[row] = Unit(<bytes>units[row], len(units[row]))
    with nogil:
        for row in range(count):
            if is_null(&cells, row):
                states[row] = BLANK
                continue
            start, end = cells.offsets[row], cells.offsets[row + 1]
            if may_be_trimmed(cells.data, start, end):
                trim_cell(cells.data, &start, &end, True, True)
            states[row] = BLANK if start == end else read_number(cells.data, start, end, &form, places, &values[row])
    return values_found, states_found


cdef uint8_t read_number(
    const uint8_t* text, Py_ssize_t start, Py_ssize_t end, Form* form, int places, int64_t* value
) noexcept nogil:
    cdef int unit, digits = 0, behind = 0, since_mark = -1
    cdef bint negative = False, has_point = False
    cdef uint8_t byte
    cdef Py_ssize_t size, first
    cdef int64_t found = 0
    for unit in range(form.unit_count):
        size = form.units[unit].size
        if end - start > size and memcmp(text + end - size, form.units[unit].text, size) == 0:
            end -= size
            if may_be_trimmed(text, start, end):
                trim_cell(text, &start, &end, False, True)
            break
    if start < end and (text[start] == 43 or text[start] == 45):
        negative = text[start] == 45
        start += 1
    for unit in range(form.unit_count):
        size = form.units[unit].size
        if end - start > size and memcmp(text + start, form.units[unit].text, size) == 0:
            start += size
            if may_be_trimmed(text, start, end):
                trim_cell(text, &start, &end, True, False)
            break
    first = start
    while start < end:
        byte = text[start] - 48
        if is_digit(text[start]):
            if has_point:
                behind += 1
            digits += 1
            since_mark += since_mark >= 0 and not has_point
            if digits > MOST_DIGITS:
                return LEFT
            found = found * 10 + byte
        elif text[start] == form.point and not has_point and digits and (since_mark < 0 or since_mark == 3):
            has_point = True
        elif not has_point and is_mark(text[start], form) and (since_mark == 3 or (since_mark < 0 and 0 < digits <= 3)):
            since_mark = 0
        else:
            return LEFT
        start += 1
    if not digits or behind > places or (has_point and not behind) or (since_mark >= 0 and since_mark != 3):
        return LEFT
    if digits + places - behind > MOST_DIGITS:
        return LEFT
    while behind < places:
        found *= 10
        behind += 1
    value[0] = -found if negative else found
    if text[first] == 48 and since_mark >= 0:
        return LEFT
    return WITH_ZEROS if text[first] == 48 and first + 1 < end and is_digit(text[first + 1]) else READ


cdef inline bint is_digit(uint8_t byte) noexcept nogil:
    return 48 <= byte <= 57


cdef inline bint is_mark(uint8_t byte, Form* form) noexcept nogil:
    cdef Py_ssize_t index
    for index in range(form.marks):
        if form.grouping[index] == byte:
            return True
    return False


def moments(object array, bytes form, int64_t first_year):
    """Microseconds since 1970-01-01, or of the day, of texts with all digits of a form, and the state of each cell.

    The form has %Y %y %m %d %j %H %M %S and bytes of ASCII. Years of two digits are of the hundred from `first_year` on.
    """
    import numpy as np

    cdef Cells cells
    cdef Py_ssize_t count = len(array), row, start, end
    cdef Py_ssize_t form_size = len(form)
    cdef const uint8_t* pattern = form
    held = held_cells(array, &cells)
    values_found, states_found = np.zeros(count, np.int64), np.zeros(count, np.uint8)
    cdef int64_t[::1] values = values_found
    cdef uint8_t[::1] states = states_found
    with nogil:
        for row in range(count):
            if is_null(&cells, row):
                states[row] = BLANK
                continue
            start, end = cells.offsets[row], cells.offsets[row + 1]
            if may_be_trimmed(cells.data, start, end):
                trim_cell(cells.data, &start, &end, True, True)
            states[row] = BLANK if start == end else read_moment(
                cells.data + start, end - start, pattern, form_size, first_year, &values[row]
            )
    return values_found, states_found


cdef uint8_t read_moment(
    const uint8_t* text, Py_ssize_t size, const uint8_t* form, Py_ssize_t form_size, int64_t first_year, int64_t* value
) noexcept nogil:
    cdef Py_ssize_t at = 0, place = 0
    cdef int64_t[128] parts
    cdef int64_t number, year = 0, days = 0
    cdef int width, index
    cdef bint has_date = False
    parts[HOUR] = parts[MINUTE] = parts[SECOND] = parts[DAY] = parts[MONTH] = 0
    parts[DAY_OF_YEAR] = -1
    while place < form_size:
        if form[place] != 37:
            if at >= size or text[at] != form[place]:
                return LEFT
            at += 1
            place += 1
            continue
        width = 4 if form[place + 1] == YEAR else 3 if form[place + 1] == DAY_OF_YEAR else 2
        if at + width > size:
            return LEFT
        number = 0
        for index in range(width):
            if not is_digit(text[at]):
                return LEFT
            number = number * 10 + text[at] - 48
            at += 1
        if form[place + 1] == YEAR or form[place + 1] == SHORT_YEAR:
            has_date = True
            year = number if width == 4 else first_year + floor_mod(number - first_year, 100)
        else:
            parts[form[place + 1] & 127] = number
        place += 2
    if at != size or parts[HOUR] > 23 or parts[MINUTE] > 59 or parts[SECOND] > 59:
        return LEFT
    if has_date:
        if year < 1:
            return LEFT
        if parts[DAY_OF_YEAR] >= 0:
            if not 1 <= parts[DAY_OF_YEAR] <= 365 + is_leap(year):
                return LEFT
            days = day_number(year, 1, 1) + parts[DAY_OF_YEAR] - 1
        else:
            if not 1 <= parts[MONTH] <= 12 or not 1 <= parts[DAY] <= days_in(year, parts[MONTH]):
                return LEFT
            days = day_number(year, parts[MONTH], parts[DAY])
    value[0] = ((days * 24 + parts[HOUR]) * 60 + parts[MINUTE]) * 60_000_000 + parts[SECOND] * 1_000_000
    return READ


cdef inline int64_t floor_mod(int64_t number, int64_t divisor) noexcept nogil:
    return ((number % divisor) + divisor) % divisor


cdef inline bint is_leap(int64_t year) noexcept nogil:
    return year % 4 == 0 and (year % 100 != 0 or year % 400 == 0)


cdef inline int64_t days_in(int64_t year, int64_t month) noexcept nogil:
    if month == 2:
        return 28 + is_leap(year)
    return 30 + ((month + (month > 7)) & 1)


cdef inline int64_t day_number(int64_t year, int64_t month, int64_t day) noexcept nogil:
    """Days since 1970-01-01. Years begin in March here, so that a leap day is the last of its year."""
    cdef int64_t from_march = (month + 9) % 12, years = year - (month <= 2)
    return years * 365 + years // 4 - years // 100 + years // 400 + (from_march * 153 + 2) // 5 + day - 1 - 719468
