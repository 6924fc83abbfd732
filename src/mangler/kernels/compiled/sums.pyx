# cython: language_level=3
"""Sums of products over stretches of bytes, of which the digest of a file's content is made."""

from libc.stdint cimport uint8_t, uint32_t, uint64_t
from libc.string cimport memcpy


def products(const uint8_t[::1] data, const uint32_t[::1] keys, Py_ssize_t stretch, Py_ssize_t shift):
    """Two sums for each whole stretch of so many words of four bytes: of products of neighbours, a key added to each.

    The keys of the second sum are those of the first, `shift` further on.
    """
    import numpy as np

    cdef Py_ssize_t count = data.shape[0] // (4 * stretch), index, at
    found = np.empty((count, 2), np.uint64)
    cdef uint64_t[:, ::1] sums = found
    cdef const uint32_t* key = &keys[0]
    cdef uint32_t[64] word  # a copy: where the bytes start is any place
    cdef uint64_t one, two
    cdef Py_ssize_t near
    with nogil:
        for index in range(count):
            one = two = 0
            for at in range(0, stretch, 64):
                memcpy(word, &data[4 * (index * stretch + at)], 256)
                for near in range(0, 64, 2):
                    one += <uint64_t>(<uint32_t>(word[near] + key[at + near])) * (
                        <uint32_t>(word[near + 1] + key[at + near + 1])
                    )
                    two += <uint64_t>(<uint32_t>(word[near] + key[at + near + shift])) * (
                        <uint32_t>(word[near + 1] + key[at + near + 1 + shift])
                    )
            sums[index, 0], sums[index, 1] = one, two
    return found
