# cython: language_level=3
"""Sums of products over stretches of bytes, of which the digest of a file's content is made."""

from libc.stdint cimport uint8_t, uint32_t, uint64_t


def products(const uint32_t[::1] words, const uint32_t[::1] keys, Py_ssize_t stretch, Py_ssize_t shift):
    """Two sums for each whole stretch of so many words: of products of neighbours, to each of which a key was added.

    The keys of the second sum are those of the first, `shift` further on.
    """
    import numpy as np

    cdef Py_ssize_t count = words.shape[0] // stretch, index, at
    found = np.empty((count, 2), np.uint64)
    cdef uint64_t[:, ::1] sums = found
    cdef const uint32_t* word
    cdef const uint32_t* key = &keys[0]
    cdef uint64_t one, two
    with nogil:
        for index in range(count):
            word = &words[index * stretch]
            one = two = 0
            for at in range(0, stretch, 2):
                one += <uint64_t>(<uint32_t>(word[at] + key[at])) * <uint32_t>(word[at + 1] + key[at + 1])
                two += <uint64_t>(<uint32_t>(word[at] + key[at + shift])) * (
                    <uint32_t>(word[at + 1] + key[at + 1 + shift])
                )
            sums[index, 0], sums[index, 1] = one, two
    return found
