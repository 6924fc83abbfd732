# cython: language_level=3
"""Many bytes compared at once, and short copies."""

from libc.stdint cimport uint8_t, uint32_t, uint64_t
from libc.string cimport memcpy, memset

cdef extern from *:
    """
    #include <stdint.h>
    static inline int bits_set(uint64_t word) { /* the builtin is a call where all processors must do */
        word -= (word >> 1) & 0x5555555555555555ull;
        word = (word & 0x3333333333333333ull) + ((word >> 2) & 0x3333333333333333ull);
        return (int)((((word + (word >> 4)) & 0x0F0F0F0F0F0F0F0Full) * 0x0101010101010101ull) >> 56);
    }
    /* The numbers of the bits that are set, counted from a number; up to 64 are written, whether or not they count. */
    static inline int places_of_bits(uint64_t bits, uint32_t from, uint32_t *out) {
        const int count = bits_set(bits);
        for (int done = 0; done < count; done += 8)
            for (int index = done; index < done + 8; index++) { /* without asking each time whether one is left */
                out[index] = from + (uint32_t)__builtin_ctzll(bits | 0x8000000000000000ull);
                bits &= bits - 1;
            }
        return count;
    }
    static inline int holds_byte(const uint8_t *at, intptr_t count, uint8_t byte) {
        uint8_t met = 0;
        for (intptr_t index = 0; index < count; index++) /* many at once, as long as it does not stop at the first */
            met |= at[index] == byte;
        return met;
    }
    #if defined(__SSE2__)
    #include <emmintrin.h>
    static inline uint64_t same_64(const uint8_t *at, uint8_t byte) {
        const __m128i wanted = _mm_set1_epi8((char)byte);
        uint64_t flags = 0;
        for (int part = 0; part < 4; part++) {
            __m128i met = _mm_cmpeq_epi8(_mm_loadu_si128((const __m128i *)(at + 16 * part)), wanted);
            flags |= (uint64_t)(uint32_t)_mm_movemask_epi8(met) << (16 * part);
        }
        return flags;
    }
    static inline uint32_t any_of_16(const uint8_t *at, uint8_t a, uint8_t b, uint8_t c, uint8_t d) {
        const __m128i part = _mm_loadu_si128((const __m128i *)at);
        __m128i met = _mm_or_si128(_mm_cmpeq_epi8(part, _mm_set1_epi8((char)a)),
                                   _mm_cmpeq_epi8(part, _mm_set1_epi8((char)b)));
        met = _mm_or_si128(met, _mm_cmpeq_epi8(part, _mm_set1_epi8((char)c)));
        met = _mm_or_si128(met, _mm_cmpeq_epi8(part, _mm_set1_epi8((char)d)));
        return (uint32_t)_mm_movemask_epi8(met);
    }
    static inline uint32_t further_of_16(const uint8_t *at) {
        const __m128i part = _mm_loadu_si128((const __m128i *)at);
        return (uint32_t)_mm_movemask_epi8(_mm_cmplt_epi8(part, _mm_set1_epi8(-64)));
    }
    static inline uint32_t unlike_ink_of_16(const uint8_t *at) {
        const __m128i part = _mm_loadu_si128((const __m128i *)at);
        return (uint32_t)_mm_movemask_epi8(_mm_cmplt_epi8(part, _mm_set1_epi8(0x21)));
    }
    #else
    #include <string.h>
    static inline uint64_t same_64(const uint8_t *at, uint8_t byte) {
        const uint64_t low = 0x7F7F7F7F7F7F7F7Full, wanted = byte * 0x0101010101010101ull;
        uint64_t flags = 0, word;
        for (int part = 0; part < 8; part++) {
            memcpy(&word, at + 8 * part, 8);
            word ^= wanted;
            word = ~(((word & low) + low) | word | low); /* the highest bit of each byte that is the same */
            flags |= (((word >> 7) * 0x0102040810204080ull) >> 56) << (8 * part);
        }
        return flags;
    }
    static inline uint32_t any_of_16(const uint8_t *at, uint8_t a, uint8_t b, uint8_t c, uint8_t d) {
        uint32_t flags = 0;
        for (int index = 0; index < 16; index++)
            flags |= (uint32_t)(at[index] == a || at[index] == b || at[index] == c || at[index] == d) << index;
        return flags;
    }
    static inline uint32_t further_of_16(const uint8_t *at) {
        uint32_t flags = 0;
        for (int index = 0; index < 16; index++)
            flags |= (uint32_t)((at[index] & 0xC0) == 0x80) << index;
        return flags;
    }
    static inline uint32_t unlike_ink_of_16(const uint8_t *at) {
        uint32_t flags = 0;
        for (int index = 0; index < 16; index++)
            flags |= (uint32_t)(at[index] < 0x21 || at[index] >= 0x80) << index;
        return flags;
    }
    #endif
    """
    uint64_t same_64(const uint8_t* at, uint8_t byte) noexcept nogil  # a bit for each of 64 bytes
    uint32_t any_of_16(const uint8_t* at, uint8_t a, uint8_t b, uint8_t c, uint8_t d) noexcept nogil
    uint32_t further_of_16(const uint8_t* at) noexcept nogil  # the bytes of a character after its first
    uint32_t unlike_ink_of_16(const uint8_t* at) noexcept nogil  # controls, spaces, and all beyond ASCII
    int trailing_zeros "__builtin_ctzll"(uint64_t) noexcept nogil
    int leading_zeros "__builtin_clzll"(uint64_t) noexcept nogil
    int bits_set(uint64_t) noexcept nogil
    bint holds_byte(const uint8_t* at, Py_ssize_t count, uint8_t byte) noexcept nogil
    int places_of_bits(uint64_t bits, uint32_t start, uint32_t* out) noexcept nogil

cdef enum:
    SLACK = 32  # bytes that are touched behind what `copy_short` copies

cdef inline uint64_t same(const uint8_t* at, Py_ssize_t left, uint8_t byte) noexcept nogil:
    """A bit for each of the next 64 bytes that is the one; nothing beyond those left is read."""
    cdef uint8_t[64] rest
    if left >= 64:
        return same_64(at, byte)
    memset(rest, byte ^ 1, 64)
    memcpy(rest, at, left)
    return same_64(rest, byte)

cdef inline uint64_t odd_so_far(uint64_t bits) noexcept nogil:
    """Bit i is set where an odd number of the bits 0 to i is."""
    bits ^= bits << 1
    bits ^= bits << 2
    bits ^= bits << 4
    bits ^= bits << 8
    bits ^= bits << 16
    return bits ^ bits << 32

cdef inline bint holds_any(
    const uint8_t* at, Py_ssize_t count, uint8_t a, uint8_t b, uint8_t c, uint8_t d
) noexcept nogil:
    """Whether one of four bytes is among so many."""
    cdef Py_ssize_t done = 0, stop
    cdef uint32_t flags = 0
    while done + 16 <= count:
        stop = min(count - 15, done + 1024)
        while done < stop:
            flags |= any_of_16(at + done, a, b, c, d)
            done += 16
        if flags:
            return True
    while done < count:
        if at[done] == a or at[done] == b or at[done] == c or at[done] == d:
            return True
        done += 1
    return False

cdef inline bint is_ascii(const uint8_t* at, Py_ssize_t count) noexcept nogil:
    cdef Py_ssize_t done = 0
    cdef uint64_t word, met = 0
    while done + 8 <= count:
        memcpy(&word, at + done, 8)
        met |= word
        done += 8
    while done < count:
        met |= at[done]
        done += 1
    return not met & 0x8080808080808080ULL

cdef inline void copy_short(uint8_t* to, const uint8_t* source, Py_ssize_t count, bint has_room) noexcept nogil:
    """Copies a cell. `has_room`: SLACK bytes more may be read and written behind it, which spares a call and a choice."""
    cdef Py_ssize_t done = 32
    if not has_room or count > 128:
        memcpy(to, source, count)
        return
    memcpy(to, source, 16)
    memcpy(to + 16, source + 16, 16)
    while done < count:
        memcpy(to + done, source + done, 16)
        done += 16
