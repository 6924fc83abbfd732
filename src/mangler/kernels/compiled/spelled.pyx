# cython: language_level=3
"""Numbers and moments written as text."""

from libc.stdint cimport int32_t, int64_t, uint8_t, uint64_t

cdef enum:
    POINT = 46
    MINUS = 45
    ZERO = 48
    MOMENT = 19  # bytes of 2026-05-04T09:30:00
    SECONDS = 86400


def numbers(const int64_t[::1] values, const uint8_t[::1] is_null, Py_ssize_t places, bint shorten):
    """Bytes and offsets of whole numbers of ten to the power of -`places`, all places written; `shorten`: none that are 0
    at the end, and no point without any. Nulls have no bytes."""
    import numpy as np

    cdef Py_ssize_t count = values.shape[0], row, to = 0, width = 3 + max(20, places + 1)
    content, offsets_found = np.empty(count * width + 1, np.uint8), np.zeros(count + 1, np.int32)
    cdef uint8_t[::1] out = content
    cdef int32_t[::1] offsets = offsets_found
    with nogil:
        for row in range(count):
            if not is_null[row]:
                to += write_number(values[row], places, shorten, &out[to])
            offsets[row + 1] = <int32_t>to
    return content[:to], offsets_found


cdef inline Py_ssize_t write_number(int64_t value, Py_ssize_t places, bint shorten, uint8_t* out) noexcept nogil:
    cdef uint64_t left = <uint64_t>value if value >= 0 else 0 - <uint64_t>value, rest = left
    cdef Py_ssize_t digits = 0, behind = places, at, written
    while rest or digits <= places:
        rest //= 10
        digits += 1
    while shorten and behind and left % 10 == 0:
        left //= 10
        behind -= 1
        digits -= 1
    written = digits + (behind > 0) + (value < 0)
    at = written - 1
    while behind:
        out[at] = <uint8_t>(ZERO + left % 10)
        left //= 10
        behind -= 1
        digits -= 1
        at -= 1
        if not behind:
            out[at] = POINT
            at -= 1
    while digits:
        out[at] = <uint8_t>(ZERO + left % 10)
        left //= 10
        digits -= 1
        at -= 1
    if value < 0:
        out[0] = MINUS
    return written


def moments(const int64_t[::1] seconds, const uint8_t[::1] is_null):
    """Bytes and offsets of the moments so many seconds after 1970, of the years 0 to 9999. Nulls have no bytes."""
    import numpy as np

    cdef Py_ssize_t count = seconds.shape[0], row, to = 0
    content, offsets_found = np.empty(count * MOMENT + 1, np.uint8), np.zeros(count + 1, np.int32)
    cdef uint8_t[::1] out = content
    cdef int32_t[::1] offsets = offsets_found
    with nogil:
        for row in range(count):
            if not is_null[row]:
                write_moment(seconds[row], &out[to])
                to += MOMENT
            offsets[row + 1] = <int32_t>to
    return content[:to], offsets_found


cdef inline void write_moment(int64_t moment, uint8_t* out) noexcept nogil:
    """Years are counted from March, so that the day that not all have is their last, in eras of 400 years."""
    cdef int64_t days = moment // SECONDS, second = moment % SECONDS, era, year, month
    if second < 0:
        second += SECONDS
        days -= 1
    days += 719468  # from the first of March of the year 0
    era = (days if days >= 0 else days - 146096) // 146097
    days -= era * 146097
    year = (days - days // 1460 + days // 36524 - days // 146096) // 365
    days -= 365 * year + year // 4 - year // 100
    month = (5 * days + 2) // 153
    days -= (153 * month + 2) // 5
    year += era * 400 + (month >= 10)
    month += 3 if month < 10 else -9
    two(out, year // 100)
    two(out + 2, year % 100)
    out[4] = out[7] = MINUS
    two(out + 5, month)
    two(out + 8, days + 1)
    out[10] = 84
    two(out + 11, second // 3600)
    out[13] = out[16] = 58
    two(out + 14, second // 60 % 60)
    two(out + 17, second % 60)


cdef inline void two(uint8_t* out, int64_t number) noexcept nogil:
    out[0] = <uint8_t>(ZERO + number // 10)
    out[1] = <uint8_t>(ZERO + number % 10)
