# cython: language_level=3
from libc.stdint cimport uint8_t

cdef void trim_cell(const uint8_t* text, Py_ssize_t* start, Py_ssize_t* end, bint left, bint right) noexcept nogil
