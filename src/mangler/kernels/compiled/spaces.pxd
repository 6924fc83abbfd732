# cython: language_level=3
from libc.stdint cimport uint8_t

cdef void trim_cell(const uint8_t* text, Py_ssize_t* start, Py_ssize_t* end, bint left, bint right) noexcept nogil

cdef inline bint is_plain(uint8_t byte) noexcept nogil:
    """Whether a byte is a character by itself, and no white space."""
    return 0x20 < byte < 0x7F

cdef inline bint may_be_trimmed(const uint8_t* text, Py_ssize_t start, Py_ssize_t end) noexcept nogil:
    """Whether there may be white space at an end of a cell: most have none, which takes no call to see."""
    return start < end and not (is_plain(text[start]) and is_plain(text[end - 1]))
