# cython: language_level=3
"""Keys that were seen: 128 bits of a hash for each, in a table that is asked for the row that had it first."""

from libc.stdint cimport INT32_MAX, UINT32_MAX, int64_t, uint8_t, uint32_t, uint64_t
from libc.stdlib cimport free, malloc
from libc.string cimport memcpy

from mangler.kernels.compiled.cells cimport Cells, held_cells, is_null

cdef extern from *:
    """
    #include <stdint.h>
    /* Both halves of a product of 128 bits, one laid over the other. */
    static inline uint64_t folded_product(uint64_t a, uint64_t b) {
    #if defined(__SIZEOF_INT128__)
        unsigned __int128 product = (unsigned __int128)a * b;
        return (uint64_t)product ^ (uint64_t)(product >> 64);
    #else
        uint64_t low_a = (uint32_t)a, high_a = a >> 32, low_b = (uint32_t)b, high_b = b >> 32;
        uint64_t low = low_a * low_b, left = high_a * low_b, right = low_a * high_b;
        uint64_t middle = (low >> 32) + (uint32_t)left + (uint32_t)right;
        uint64_t high = high_a * high_b + (left >> 32) + (right >> 32) + (middle >> 32);
        return ((middle << 32) | (uint32_t)low) ^ high;
    #endif
    }
    """
    uint64_t folded_product(uint64_t a, uint64_t b) noexcept nogil
    void prefetch "__builtin_prefetch"(const void*) noexcept nogil

cdef uint64_t LENGTH = 0x9FB21C651E98DF25ULL  # an odd number that looks like chance, for how long a cell is

cdef enum:
    AHEAD = 12  # places of the table are asked for so many keys before they are looked at
    SECRETS = 6  # numbers that `hashed` is given, which nobody who wrote the texts can know


def hashed(list columns, Py_ssize_t count, const uint64_t[::1] secret):
    """Two hashes of the cells of each row, all columns together. A null is not like an empty text."""
    import numpy as np

    cdef Py_ssize_t width = len(columns), column, row
    if secret.shape[0] != SECRETS:
        raise ValueError("six secrets")
    first_found, second_found = np.empty(count, np.uint64), np.empty(count, np.uint64)
    cdef uint64_t[::1] first = first_found, second = second_found
    cdef uint64_t one, two
    cdef Cells* cells = <Cells*>malloc(max(width, 1) * sizeof(Cells))
    if cells == NULL:
        raise MemoryError
    try:
        held = [held_cells(columns[column], &cells[column]) for column in range(width)]
        with nogil:
            for row in range(count):
                one, two = secret[0], secret[1]
                for column in range(width):
                    take_in(&cells[column], row, &secret[0], &one, &two)
                first[row], second[row] = one, two
    finally:
        free(cells)
    return first_found, second_found


cdef inline void take_in(
    Cells* cells, Py_ssize_t row, const uint64_t* secret, uint64_t* first, uint64_t* second
) noexcept nogil:
    """Mixes a cell into the hashes of its row: its length, which tells null from empty, and its bytes."""
    cdef Py_ssize_t at = 0, left = -1
    cdef uint64_t one = first[0], two = second[0]
    if not is_null(cells, row):
        at = cells.offsets[row]
        left = cells.offsets[row + 1] - at
    one += <uint64_t>(left + 1) * LENGTH
    two ^= <uint64_t>(left + 1) * LENGTH
    while True:
        mix(&one, &two, word_at(cells, at, left), word_at(cells, at + 8, left - 8), secret)
        at += 16
        left -= 16
        if left <= 0:
            break
    first[0], second[0] = one, two


cdef inline void mix(uint64_t* one, uint64_t* two, uint64_t low, uint64_t high, const uint64_t* secret) noexcept nogil:
    one[0] = folded_product(low ^ secret[2], high ^ secret[3] ^ one[0])
    two[0] = folded_product(high ^ secret[4], low ^ secret[5] ^ two[0]) + (one[0] >> 7)


cdef inline uint64_t word_at(Cells* cells, Py_ssize_t at, Py_ssize_t left) noexcept nogil:
    """The next eight bytes of a cell, zeros behind its end."""
    cdef uint64_t word = 0
    if left <= 0:
        return 0
    if at + 8 <= cells.size:
        memcpy(&word, cells.data + at, 8)
        return word if left >= 8 else word & ((<uint64_t>1 << (8 * left)) - 1)
    memcpy(&word, cells.data + at, min(left, 8))
    return word


def cell_hashes(object array, const uint64_t[::1] some, int level, Py_ssize_t most_words):
    """A number for each cell, the same on every machine: of its length, its first words and its last one. `some` has 64
    odd numbers, and the level says which of them are used."""
    import numpy as np

    cdef Cells cells
    cdef Py_ssize_t count = len(array), row, at, left, number
    cdef uint64_t total
    if some.shape[0] != 64 or level < 0:
        raise ValueError("64 numbers, and a level")
    held = held_cells(array, &cells)
    found = np.empty(count, np.uint64)
    cdef uint64_t[::1] hashes = found
    with nogil:
        for row in range(count):
            if is_null(&cells, row):
                hashes[row] = 0x9E3779B97F4A7C15ULL
                continue
            at, left = cells.offsets[row], cells.offsets[row + 1] - cells.offsets[row]
            total = <uint64_t>left * some[(level + 3) % 64]
            for number in range(most_words):
                if number and left <= 8 * number:
                    break
                total ^= total >> 31 ^ word_at(&cells, at + 8 * number, left - 8 * number)
                total *= some[(level * 5 + number + 11) % 64]
            if left > 8 * most_words:
                total += word_at(&cells, at + left - 8, 8) * some[(level + 29) % 64]
            hashes[row] = total
    return found


def put(uint64_t[::1] slots, const uint64_t[::1] first, const uint64_t[::1] second, Py_ssize_t start):
    """Puts the keys from `start` on into a table: all are different, and none of them is there.

    It is a power of two long, and has a free place then. A place has the upper half of the second hash, and the number
    of the key and one below it; 0 where it is free.
    """
    cdef Py_ssize_t mask = slots.shape[0] - 1, count = first.shape[0], key, place
    if count >= UINT32_MAX:
        raise OverflowError("too many keys for a table of their numbers")
    with nogil:
        for key in range(start, count):
            if key + AHEAD < count:
                prefetch(&slots[<Py_ssize_t>(first[key + AHEAD] & <uint64_t>mask)])
            place = <Py_ssize_t>(first[key] & <uint64_t>mask)
            while slots[place]:
                place = (place + 1) & mask
            slots[place] = (second[key] & ~<uint64_t>UINT32_MAX) | <uint64_t>(key + 1)


def found(
    const uint64_t[::1] slots, const uint64_t[::1] known_first, const uint64_t[::1] known_second,
    const uint64_t[::1] first, const uint64_t[::1] second,
):
    """For each key its number among those that `put` has put into a table; -1 for none."""
    import numpy as np

    cdef Py_ssize_t mask = slots.shape[0] - 1, count = first.shape[0], row, place, key
    cdef uint64_t slot
    numbers_found = np.empty(count, np.int64)
    cdef int64_t[::1] numbers = numbers_found
    with nogil:
        for row in range(count):
            # First the place is asked for, then the key that may be the same.
            if row + 2 * AHEAD < count:
                prefetch(&slots[<Py_ssize_t>(first[row + 2 * AHEAD] & <uint64_t>mask)])
                slot = slots[<Py_ssize_t>(first[row + AHEAD] & <uint64_t>mask)]
                if slot and slot >> 32 == second[row + AHEAD] >> 32:
                    prefetch(&known_first[<Py_ssize_t>(slot & UINT32_MAX) - 1])
                    prefetch(&known_second[<Py_ssize_t>(slot & UINT32_MAX) - 1])
            place = <Py_ssize_t>(first[row] & <uint64_t>mask)
            numbers[row] = -1
            while slots[place]:
                slot = slots[place]
                key = <Py_ssize_t>(slot & UINT32_MAX) - 1
                if slot >> 32 == second[row] >> 32 and known_first[key] == first[row] and known_second[key] == second[row]:
                    numbers[row] = key
                    break
                place = (place + 1) & mask
    return numbers_found


def numbered(const uint64_t[::1] first, const uint64_t[::1] second):
    """The number of each row's key, in the order in which they come first, and the row that has each first."""
    import numpy as np

    cdef Py_ssize_t count = first.shape[0], slots = 2, row, ahead, mask, place, head, known = 0
    if count > INT32_MAX:
        raise OverflowError("too many rows for a table of their numbers")
    while slots < 2 * count:
        slots *= 2
    mask = slots - 1
    keys_found, heads_found = np.empty(count, np.int64), np.empty(count, np.int64)
    cdef int64_t[::1] keys = keys_found, heads = heads_found
    # The first row of each key, and one; 0 where a place is free.
    cdef uint32_t[::1] table = np.zeros(slots, np.uint32)
    with nogil:
        for row in range(count):
            # First the place is asked for, then what is known of the row that is there.
            if row + 2 * AHEAD < count:
                prefetch(&table[<Py_ssize_t>(first[row + 2 * AHEAD] & <uint64_t>mask)])
                ahead = <Py_ssize_t>table[<Py_ssize_t>(first[row + AHEAD] & <uint64_t>mask)] - 1
                if ahead >= 0:
                    prefetch(&first[ahead])
                    prefetch(&second[ahead])
                    prefetch(&keys[ahead])
            place = <Py_ssize_t>(first[row] & <uint64_t>mask)
            while True:
                head = <Py_ssize_t>table[place] - 1
                if head < 0:
                    table[place] = <uint32_t>(row + 1)
                    heads[known], keys[row] = row, known
                    known += 1
                    break
                if first[head] == first[row] and second[head] == second[row]:
                    keys[row] = keys[head]
                    break
                place = (place + 1) & mask
    return keys_found, heads_found[:known].copy()


def numbered_on(
    uint64_t[::1] slots, uint64_t[::1] known_first, uint64_t[::1] known_second, Py_ssize_t known,
    const uint64_t[::1] first, const uint64_t[::1] second, Py_ssize_t start, int64_t[::1] numbers, int64_t[::1] heads,
):
    """Goes on with the numbers of keys: a table has `known` of them already, and takes those that are new.

    Gives the rows from `start` on their numbers, and notes at `heads` the row of each new key. Returns how many rows
    are done, which are not all where the table is two thirds full, and how many keys are known.
    """
    cdef Py_ssize_t mask = slots.shape[0] - 1, count = first.shape[0], row = start, place, key, before = known
    cdef Py_ssize_t most = min(min(2 * slots.shape[0] // 3, known_first.shape[0]), UINT32_MAX - 1)
    cdef uint64_t slot
    with nogil:
        while row < count:
            # First the place is asked for, then the key that may be the same.
            if row + 2 * AHEAD < count:
                prefetch(&slots[<Py_ssize_t>(first[row + 2 * AHEAD] & <uint64_t>mask)])
                slot = slots[<Py_ssize_t>(first[row + AHEAD] & <uint64_t>mask)]
                if slot and slot >> 32 == second[row + AHEAD] >> 32:
                    prefetch(&known_first[<Py_ssize_t>(slot & UINT32_MAX) - 1])
                    prefetch(&known_second[<Py_ssize_t>(slot & UINT32_MAX) - 1])
            place = <Py_ssize_t>(first[row] & <uint64_t>mask)
            while True:
                slot = slots[place]
                key = <Py_ssize_t>(slot & UINT32_MAX) - 1
                if key < 0:
                    break
                if slot >> 32 == second[row] >> 32 and known_first[key] == first[row] and known_second[key] == second[row]:
                    break
                place = (place + 1) & mask
            if key < 0:
                if known >= most:
                    break
                key = known
                slots[place] = (second[row] & ~<uint64_t>UINT32_MAX) | <uint64_t>(key + 1)
                known_first[key], known_second[key] = first[row], second[row]
                heads[known - before] = row
                known += 1
            numbers[row] = key
            row += 1
    return row, known
