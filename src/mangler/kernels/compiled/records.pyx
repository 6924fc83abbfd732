# cython: language_level=3
"""Delimited text taken apart: where records end, and their fields straight into the buffers of text columns."""

from libc.stdint cimport INT32_MAX, int32_t, int64_t, uint8_t, uint32_t, uint64_t
from libc.stdlib cimport calloc, free, malloc, realloc
from libc.string cimport memchr, memcmp, memcpy, memmove, memset

from cython.view cimport array

from mangler.kernels.compiled.words cimport (
    SLACK, any_of_16, bits_set, copy_short, holds_byte, leading_zeros, odd_so_far, places_of_bits, same, trailing_zeros,
)

cdef enum:
    LINE_FEED = 10
    RETURN = 13
    QUOTED = 0x80000000
    DOUBLED = 0x40000000
    PLACE = 0x3FFFFFFF
    NEAR = 0x20000  # bytes that are in a processor's cache
    ENDS = 4096  # fields whose ends are looked for together, at least
    OPENS = 4  # beside the flags of `split`'s table
    EMPTY = 8  # a field that starts with it has perhaps nothing

LARGEST = PLACE
"""Bytes that `split` takes: places and two flags share 32 bits."""


def place_of(const uint8_t[::1] data, uint8_t byte):
    """Where a byte is first; -1 where it is not."""
    cdef const uint8_t* found = NULL
    if data.shape[0]:
        with nogil:
            found = <const uint8_t*>memchr(&data[0], byte, data.shape[0])
    return found - &data[0] if found != NULL else -1


# Where records end

def marks(const uint8_t[::1] data, bytes delimiter, uint8_t quote):
    """Line feeds, CRs, what is inside quotes, and ends of fields: as bits, 64 to a word with a spare word behind.

    No CRs and nothing inside quotes are None where there are none; the ends of fields where a delimiter has several
    bytes. Then whether all quotes are those of quoted fields, the closing quotes that text follows, and where a quote is
    not closed, -1 where all are; where the first NUL is, -1 for none; at last how many bytes at the front are whole
    records, and how many of their lines end one, are empty, and are lines.
    """
    import numpy as np  # late: `mangler --version` loads these modules, and not NumPy

    cdef Py_ssize_t size = data.shape[0], count = (size + 7) // 8 // 8 + 2
    feeds_found, returns_found, inside_found, ends_found = (np.empty(count, np.uint64) for _ in range(4))
    cdef uint64_t[::1] feeds = feeds_found, returns = returns_found, inside = inside_found, ends = ends_found
    cdef Flags flags = Flags(&feeds[0], &returns[0], &inside[0], &ends[0], 0, 0, False, True, -1)
    cdef Py_ssize_t word
    cdef bint is_known = len(delimiter) == 1
    cdef uint8_t first = delimiter[0] if delimiter else LINE_FEED
    for word in range((size + 63) >> 6, count):
        feeds[word] = returns[word] = inside[word] = ends[word] = 0
    if size:
        with nogil:
            flag_bytes(&data[0], size, first, quote, &flags)
    nul = place_of(data, 0) if flags.any_nul else -1
    broken = []
    if flags.any_quote and not (is_known and flags.is_sound):
        walk(data, delimiter, quote, inside, broken, &flags.unclosed)
        flags.is_sound = False
        for word in range((size + 63) >> 6):
            ends[word] = (feeds[word] | same(&data[word << 6], size - (word << 6), first)) & ~inside[word]
    return (
        feeds_found, returns_found if flags.any_return else None, inside_found if flags.any_quote else None,
        ends_found if is_known else None, flags.is_sound, np.array(broken, np.intp), flags.unclosed, nul,
        whole_of(feeds, returns, inside),
    )


cdef struct Flags:
    uint64_t* feeds
    uint64_t* returns
    uint64_t* inside
    uint64_t* ends
    uint64_t any_return, any_quote
    bint any_nul
    bint is_sound
    Py_ssize_t unclosed


cdef void flag_bytes(
    const uint8_t* text, Py_ssize_t size, uint8_t delimiter, uint8_t quote, Flags* flags
) noexcept nogil:
    """Takes quotes in turn for opening and closing ones. It is sound where each that opens starts a field or follows one
    that closes, and each that closes ends a field or has one that opens behind it: a doubled quote does both."""
    cdef Py_ssize_t at, index, place, opened = -1
    cdef uint64_t feed, divides, quotes, inside, opens, closes, marks, behind, first
    cdef uint64_t unsound = 0, before = 1, closed = 0, parity = 0
    for index in range((size + 63) >> 6):
        at = index << 6
        if not at & 4095:
            flags.any_nul |= holds_byte(text + at, min(size - at, 4096), 0)
        feed, divides = same(text + at, size - at, LINE_FEED), same(text + at, size - at, delimiter)
        quotes = same(text + at, size - at, quote)
        flags.feeds[index], flags.returns[index] = feed, same(text + at, size - at, RETURN)
        flags.any_return |= flags.returns[index]
        if quotes | parity | closed:
            flags.any_quote |= quotes
            inside = odd_so_far(quotes) ^ parity
            opens, closes = quotes & inside, quotes & ~inside
            marks = feed | divides | quotes
            behind = closes << 1 | closed
            unsound |= opens & ~(marks << 1 | before)
            first, behind = opens & ~behind, behind & ~marks
            if first:
                opened = at + 63 - leading_zeros(first)
            while behind and not unsound:
                place = at + trailing_zeros(behind)
                unsound = place < size and not is_empty_line(text, size, place)
                behind &= behind - 1
            before, closed = marks >> 63, closes >> 63
            parity = 0 - (inside >> 63)
            flags.inside[index] = inside
            flags.ends[index] = (feed | divides) & ~inside
        else:
            before = (feed | divides) >> 63
            flags.inside[index] = 0
            flags.ends[index] = feed | divides
    if size & 63:
        flags.inside[(size - 1) >> 6] &= ~<uint64_t>0 >> (64 - (size & 63))
    flags.is_sound = not unsound
    flags.unclosed = opened if parity else -1


cdef void walk(
    const uint8_t[::1] data, bytes delimiter, uint8_t quote, uint64_t[::1] inside, list broken, Py_ssize_t* unclosed
) except *:
    """One quote after the other, for text with quotes in unquoted fields, or behind closing ones."""
    cdef Py_ssize_t size = data.shape[0], length = len(delimiter), at = -1, close
    cdef const uint8_t* text = &data[0]
    cdef const uint8_t* mark = delimiter
    inside[:] = 0
    unclosed[0] = -1
    while True:
        at = next_byte(text, size, at + 1, quote)
        if at < 0:
            return
        if not starts_field(text, at, mark, length):
            continue
        close = next_byte(text, size, at + 1, quote)
        while close >= 0 and close + 1 < size and text[close + 1] == quote:
            close = next_byte(text, size, close + 2, quote)
        if close < 0:
            unclosed[0] = at
            fill(&inside[0], at, size)
            return
        fill(&inside[0], at, close)
        if not ends_field(text, size, close + 1, mark, length):
            broken.append(close)
        at = close


cdef inline Py_ssize_t next_byte(const uint8_t* text, Py_ssize_t size, Py_ssize_t at, uint8_t byte) noexcept nogil:
    cdef const uint8_t* found = NULL
    if at < size:
        found = <const uint8_t*>memchr(text + at, byte, size - at)
    return found - text if found != NULL else -1


cdef tuple whole_of(const uint64_t[::1] feeds, const uint64_t[::1] returns, const uint64_t[::1] inside):
    """What is in the whole records. An empty line has nothing but a CR before its line feed."""
    cdef Py_ssize_t index, last = -1, lines = 0, ended = 0, empty = 0, before = 0, met
    cdef uint64_t ends, opens, bare, nothing, opened = 1, returned = 0
    with nogil:
        for index in range(feeds.shape[0]):
            ends = feeds[index] & ~inside[index]
            opens = ends << 1 | opened  # where lines start
            bare = returns[index] & opens
            nothing = ends & (opens | bare << 1 | returned)
            opened, returned = ends >> 63, bare >> 63
            if nothing:
                empty += bits_set(nothing)
            if feeds[index]:
                met = bits_set(ends)
                if met:
                    ended += met
                    last, before = index, lines
                lines += met if ends == feeds[index] else bits_set(feeds[index])
    if last < 0:
        return 0, 0, empty, 0
    opens = ~<uint64_t>0 >> leading_zeros(feeds[last] & ~inside[last])  # up to the last line end
    return (last << 6) + bits_set(opens), ended, empty, before + bits_set(feeds[last] & opens)


cdef inline void fill(uint64_t* words, Py_ssize_t start, Py_ssize_t end) noexcept nogil:
    cdef Py_ssize_t first = start >> 6, last = end >> 6, index
    cdef uint64_t from_start = (~<uint64_t>0) << (start & 63), before_end = ((<uint64_t>1) << (end & 63)) - 1
    if first == last:
        words[first] |= from_start & before_end
        return
    words[first] |= from_start
    for index in range(first + 1, last):
        words[index] = ~<uint64_t>0
    words[last] |= before_end


cdef inline bint starts_field(
    const uint8_t* text, Py_ssize_t at, const uint8_t* delimiter, Py_ssize_t length
) noexcept nogil:
    if at == 0 or text[at - 1] == LINE_FEED:
        return True
    return at >= length and is_mark(text + at - length, delimiter, length)


cdef inline bint ends_field(
    const uint8_t* text, Py_ssize_t size, Py_ssize_t at, const uint8_t* delimiter, Py_ssize_t length
) noexcept nogil:
    if at == size or text[at] == LINE_FEED:
        return True
    if text[at] == RETURN and (at + 1 == size or text[at + 1] == LINE_FEED):
        return True
    return at + length <= size and is_mark(text + at, delimiter, length)


cdef inline bint is_mark(const uint8_t* text, const uint8_t* delimiter, Py_ssize_t length) noexcept nogil:
    return text[0] == delimiter[0] and (length == 1 or memcmp(text, delimiter, length) == 0)


# Fields to columns

cdef struct Tape:
    uint32_t* fields  # where each field of the kept records starts, with two flags, and where it ends: row by row
    Py_ssize_t room  # fields that it has room for


def split(
    const uint8_t[::1] data, const uint64_t[::1] field_ends, const uint64_t[::1] returns, bint is_sound,
    Py_ssize_t width, uint8_t delimiter, uint8_t quote, bint pad, const uint8_t[::1] table=None, list wanted=None,
):
    """The fields of whole records as columns, and the records that are none of the table.

    `field_ends`, `returns` and `is_sound` are what `marks` gives of the data, and may go on behind it. `wanted` says of
    which fields the columns are made, None of all; where the places of fields are not known, all are. `columns` makes
    others of their places.

    Gives the fields whose columns are made, and for each of these columns its bytes, offsets, validity bits (None where
    all are valid) and number of nulls; then the records with text after a closing quote, those with a wrong number of
    fields and that number, and how many records were filled up with nulls. A field is null where it has nothing, and
    no quotes. Empty lines are no records, but in a table of one column.

    Then the places of all fields, row by row, and for each column whether its fields have quotes just where a writer
    would put them, so that they can be written as they are; None where that is not known. With a table at last the
    bytes of each column, its nulls, and its cells that start with a byte that the table flags with 1, or with 2 where
    more follows.
    """
    import numpy as np

    cdef Tape tape = Tape(NULL, 0)
    cdef Ends ends
    broken, ragged, counts = [], [], []
    cdef Py_ssize_t kept = 0, padded = 0, record = 0, size = data.shape[0], column, fields
    cdef const uint8_t* text = &data[0] if size else NULL
    cdef bint is_broken = False
    cdef Py_ssize_t near = 0, start = 0
    made = list(range(width)) if wanted is None else wanted
    # All columns are gathered at the end, when their sizes are known: that costs no more, and leaves no gaps in memory.
    cdef Py_ssize_t many = len(made) if len(made) < width else 0
    if width < 1 or not all(0 <= field < width for field in made) or table is not None and table.shape[0] != 256:
        raise ValueError("a column at least, fields that are there, and a flag for each byte")
    facts_found = np.zeros((3, width), np.int64)
    cdef int64_t[:, ::1] facts = facts_found
    cdef Notes notes = Notes(&facts[0, 0], &facts[1, 0], &facts[2, 0], NULL)
    kinds_found = np.zeros(256, np.uint8) if table is None else np.array(table)
    kinds_found[quote] |= OPENS
    kinds_found[[delimiter, LINE_FEED, RETURN]] |= EMPTY
    cdef uint8_t[::1] kinds = kinds_found
    if table is not None:
        notes.table = &table[0]
    cdef uint8_t* as_is = <uint8_t*>malloc(width)
    cdef Column* columns = <Column*>calloc(many + 1, sizeof(Column))
    cdef bint has_room = begin(&ends, size, field_ends, returns, width, delimiter, quote)
    if as_is == NULL or columns == NULL or not has_room or size > PLACE:
        free(as_is)
        free(columns)
        free(ends.at)
        raise MemoryError
    places = None
    try:
        for column in range(width):
            as_is[column] = True
        for column in range(many):
            columns[column].field = made[column]
        ends.as_is = as_is
        while ends.start < size:
            with nogil:
                while ends.start < size:  # as long as all is as it should be
                    if not make_room(&tape, (kept + 1) * width):
                        with gil:
                            raise MemoryError
                    fields = read_record(text, size, width, &ends, &kinds[0], tape.fields + 2 * kept * width, &notes,
                                         &is_broken)
                    if not fields:
                        continue
                    if is_broken or fields != width:
                        break
                    kept += 1
                    record += 1
                    if ends.start - start >= NEAR and not kept & 7:  # while these bytes are near
                        if not gather_next(text, size, tape.fields, width, quote, near, kept, start, ends.start, columns,
                                           many):
                            with gil:
                                raise MemoryError
                        near, start = kept, ends.start
                else:
                    fields, is_broken = width, False
            if is_broken or fields != width:
                note_record(text, tape.fields + 2 * kept * width, min(fields, width), &notes, -1)
            if is_broken:
                broken.append(record)
            elif fields < width and pad:
                for column in range(fields, width):
                    tape.fields[2 * (kept * width + column)] = tape.fields[2 * (kept * width + column) + 1] = 0
                note_record(text, tape.fields + 2 * kept * width, width, &notes, 1)
                kept += 1
                padded += 1
            elif fields != width:
                ragged.append(record)
                counts.append(fields)
            else:
                break
            record += 1
        is_as_read = width > 1 and kept and not padded and is_sound and ends.returned == ends.met
        if not is_as_read or len(made) == width:
            made = list(range(width))
            found = gathered(text, size, tape.fields, width, quote, made, notes.sizes, NULL, kept)
        elif gather_next(text, size, tape.fields, width, quote, near, kept, start, size, columns, many):
            found = [taken_over(&columns[column], kept) for column in range(many)]
        else:
            raise MemoryError
        if is_as_read:
            places = np.asarray(held(&tape, 2 * kept * width))
        plain = [as_is[column] != 0 for column in range(width)]
    finally:
        free(tape.fields)
        free(ends.at)
        free(as_is)
        for column in range(many):
            free(columns[column].content)
            free(columns[column].offsets)
            free(columns[column].valid)
        free(columns)
    unfit = np.array(broken, np.intp), np.array(ragged, np.intp), np.array(counts, np.intp)
    return made, found, *unfit, padded, places, plain, facts_found


cdef bint gather_next(
    const uint8_t* text, Py_ssize_t size, const uint32_t* places, Py_ssize_t width, uint8_t quote, Py_ssize_t first,
    Py_ssize_t last, Py_ssize_t start, Py_ssize_t end, Column* columns, Py_ssize_t many,
) noexcept nogil:
    """Adds the rows that lie in these bytes to columns that grow with them; whether there was memory."""
    cdef Py_ssize_t index
    cdef double times = 1.1 * size / end if end else 1  # so much longer they will be about
    for index in range(many):
        if not (
            grown(<void**>&columns[index].content, &columns[index].room, columns[index].to + end - start + SLACK, times)
            and grown(<void**>&columns[index].offsets, &columns[index].rows_room, (last + 1) * sizeof(int32_t), times)
            and grown(<void**>&columns[index].valid, &columns[index].bits_room, last // 8 + 1, times)
        ):
            return False
        if not first:
            columns[index].offsets[0] = 0
            columns[index].valid[0] = 0
        gather(text, size, places, width, quote, NULL, first, last, &columns[index])
    return True


cdef bint grown(void** memory, Py_ssize_t* room, Py_ssize_t needed, double times) noexcept nogil:
    """Gives what is needed, and more where there was some before: what there will be in the end."""
    cdef void* more
    if needed <= room[0]:
        return True
    if room[0]:
        needed = max(<Py_ssize_t>(times * needed), needed + (needed >> 2))
    more = realloc(memory[0], needed)
    if more == NULL:
        return False
    memory[0], room[0] = more, needed
    return True


cdef void shrink(void** memory, Py_ssize_t needed) noexcept nogil:
    """Gives back what was taken beyond what is needed: rows may be kept for long."""
    cdef void* less = realloc(memory[0], needed)
    if less != NULL:
        memory[0] = less


cdef tuple taken_over(Column* column, Py_ssize_t rows):
    """A column as arrays, which free its memory."""
    import numpy as np

    shrink(<void**>&column.content, column.to + SLACK)
    shrink(<void**>&column.offsets, (rows + 1) * sizeof(int32_t))
    cdef array content = <uint8_t[: column.to + SLACK]> column.content
    content.callback_free_data = free
    column.content = NULL
    cdef array offsets = <int32_t[: rows + 1]> column.offsets
    offsets.callback_free_data = free
    column.offsets = NULL
    cdef array valid = <uint8_t[: rows // 8 + 1]> column.valid
    valid.callback_free_data = free
    column.valid = NULL
    return (
        np.asarray(content)[: column.to], np.asarray(offsets), np.asarray(valid) if column.nulls else None, column.nulls
    )


def columns(
    const uint8_t[::1] data, const uint32_t[::1] places, Py_ssize_t width, uint8_t quote, list fields,
    const int64_t[::1] rows, Py_ssize_t first, Py_ssize_t count, const int64_t[::1] known_sizes,
):
    """The columns of these fields, as `split` gives columns: of so many records from the first on, or of the records
    that `rows` has there, where it has any. The sizes of all fields of the records may be known, or are counted.

    None where one would be too large for a column.
    """
    import numpy as np

    check_places(places, width, fields, rows, first, count)
    cdef const uint8_t* text = &data[0] if data.shape[0] else NULL
    cdef const int64_t* chosen = &rows[first] if rows.shape[0] and count else NULL
    cdef const uint32_t* place = &places[0] if chosen != NULL or not count else &places[2 * first * width]
    cdef Py_ssize_t index, row, at, known = len(fields)
    sizes_found = np.zeros(known + 1, np.int64)
    cdef int64_t[::1] sizes = sizes_found
    cdef bint are_known = known_sizes.shape[0] == width
    for index in range(known):
        at = fields[index]
        if are_known:
            sizes[index] = known_sizes[at]
        else:
            with nogil:
                for row in range(count):
                    sizes[index] += length_of(place + 2 * (record_of(chosen, row) * width + at))
        if sizes[index] > INT32_MAX:
            return None
    return gathered(text, data.shape[0], place, width, quote, fields, &sizes[0], chosen, count)


def field_facts(
    const uint8_t[::1] data, const uint32_t[::1] places, Py_ssize_t width, list fields, const int64_t[::1] rows,
    Py_ssize_t count, const uint8_t[::1] table,
):
    """What `split` tells last, of these fields and of so many rows."""
    import numpy as np

    cdef Py_ssize_t index, row = 0, at, times, known = len(fields)
    cdef const uint8_t* text = &data[0] if data.shape[0] else NULL
    facts_found = np.zeros((3, known + 1), np.int64)
    cdef int64_t[:, ::1] facts = facts_found
    if table.shape[0] != 256:
        raise ValueError("a flag for each byte")
    cdef Notes notes = Notes(&facts[0, 0], &facts[1, 0], &facts[2, 0], &table[0])
    cdef int64_t[::1] field = np.array(fields, np.int64)
    cdef const int64_t* chosen = &rows[0] if rows.shape[0] else NULL
    check_places(places, width, fields, rows, 0, count)
    with nogil:
        while row < count:
            at, times = record_of(chosen, row) * width, 1
            while chosen != NULL and row + times < count and chosen[row + times] == chosen[row]:
                times += 1  # a row that is there several times, one behind the other
            for index in range(known):
                note_field(text, &places[2 * (at + field[index])], index, &notes, times)
            row += times
    return facts_found[:, :known]


cdef void check_places(
    const uint32_t[::1] places, Py_ssize_t width, list fields, const int64_t[::1] rows, Py_ssize_t first,
    Py_ssize_t count,
) except *:
    """Refuses fields and rows that were not read."""
    cdef Py_ssize_t records = places.shape[0] // (2 * width), row
    cdef bint are_there = 0 <= first and 0 <= count and first + count <= (rows.shape[0] or records)
    if rows.shape[0] and are_there:
        for row in range(first, first + count):
            are_there &= 0 <= rows[row] < records
    if not are_there or any(not 0 <= field < width for field in fields):
        raise IndexError("rows or fields that were not read")


cdef inline Py_ssize_t record_of(const int64_t* rows, Py_ssize_t row) noexcept nogil:
    return rows[row] if rows != NULL else row


cdef inline Py_ssize_t length_of(const uint32_t* place) noexcept nogil:
    """Bytes of a field; where quotes are doubled more than the cell has."""
    return place[1] - (place[0] & PLACE)


cdef object held(Tape* tape, Py_ssize_t count):
    """The tape as an array, which frees it."""
    cdef array kept = <uint32_t[:count]> tape.fields
    kept.callback_free_data = free
    tape.fields = NULL
    return kept


cdef inline bint make_room(Tape* tape, Py_ssize_t fields) noexcept nogil:
    cdef Py_ssize_t room
    cdef uint32_t* more
    if fields <= tape.room:
        return True
    room = fields + (fields >> 1) + 1024
    more = <uint32_t*>realloc(tape.fields, room * 2 * sizeof(uint32_t))
    if more == NULL:
        return False
    tape.fields, tape.room = more, room
    return True


cdef struct Notes:
    int64_t* sizes  # bytes of each column; where quotes are doubled more than its cells have
    int64_t* nulls
    int64_t* flagged  # cells that start with a byte of the table
    const uint8_t* table  # NULL where only sizes are asked for


cdef inline void note_record(
    const uint8_t* text, const uint32_t* fields, Py_ssize_t width, Notes* notes, Py_ssize_t times
) noexcept nogil:
    """Adds a record to the notes, or takes it out again."""
    cdef Py_ssize_t column
    for column in range(width):
        note_field(text, fields + 2 * column, column, notes, times)


cdef inline void note_field(
    const uint8_t* text, const uint32_t* place, Py_ssize_t column, Notes* notes, Py_ssize_t times
) noexcept nogil:
    cdef Py_ssize_t length = length_of(place)
    notes.sizes[column] += times * length
    if notes.table != NULL:
        if length:
            notes.flagged[column] += times * is_flagged(notes.table[text[place[0] & PLACE]], length)
        elif not place[0] & QUOTED:
            notes.nulls[column] += times


cdef inline bint is_flagged(uint8_t flag, Py_ssize_t length) noexcept nogil:
    """Whether a cell starts with a byte of flag 1, or with one of flag 2 and goes on."""
    return flag == 1 or flag == 2 and length > 1


cdef inline bint is_empty_line(const uint8_t* text, Py_ssize_t size, Py_ssize_t at) noexcept nogil:
    if text[at] == LINE_FEED:
        return True
    return text[at] == RETURN and (at + 1 == size or text[at + 1] == LINE_FEED)


cdef struct Ends:
    uint32_t* at  # where fields end that are not read yet: delimiters and line feeds outside quotes, at last the end
    Py_ssize_t next, filled, room
    Py_ssize_t start  # where the next field starts
    Py_ssize_t base  # what was not looked at yet
    Py_ssize_t last  # the end that was found last
    bint is_over
    const uint64_t* bits
    const uint64_t* returns
    uint8_t delimiter
    uint8_t quote
    Py_ssize_t returned  # CRs that there are
    Py_ssize_t met  # CRs of line ends
    uint8_t* as_is  # whether the fields of a column have quotes only where a writer would put them


cdef bint begin(
    Ends* ends, Py_ssize_t size, const uint64_t[::1] field_ends, const uint64_t[::1] returns, Py_ssize_t width,
    uint8_t delimiter, uint8_t quote,
) except -1:
    """Whether there is memory for the ends of a record at least."""
    cdef Py_ssize_t words = (size + 63) >> 6
    if field_ends.shape[0] < words or returns is not None and returns.shape[0] < words:
        raise ValueError("a bit for each byte")
    memset(ends, 0, sizeof(Ends))
    ends.bits = &field_ends[0] if words else NULL
    ends.returns = &returns[0] if returns is not None and words else NULL
    ends.delimiter, ends.quote, ends.last, ends.room = delimiter, quote, -1, max(ENDS, width) + 128
    ends.at = <uint32_t*>malloc(ends.room * sizeof(uint32_t))
    return ends.at != NULL


cdef void find_ends(const uint8_t* text, Py_ssize_t size, Ends* ends) noexcept nogil:
    """Finds as many ends as there is room for, behind those that are not read yet."""
    cdef Py_ssize_t base = ends.base, filled = ends.filled - ends.next
    cdef uint64_t flags, within
    memmove(ends.at, ends.at + ends.next, filled * sizeof(uint32_t))
    while base < size and filled + 64 < ends.room:
        within = ~<uint64_t>0 >> (64 - min(size - base, 64))
        flags = ends.bits[base >> 6] & within
        if ends.returns != NULL:
            ends.returned += bits_set(ends.returns[base >> 6] & within)
        filled += places_of_bits(flags, <uint32_t>base, ends.at + filled)
        if flags:
            ends.last = base + 63 - leading_zeros(flags)
        base += 64
    if base >= size and not ends.is_over:
        ends.is_over = True
        if ends.last < size - 1 or text[size - 1] != LINE_FEED:
            ends.at[filled] = <uint32_t>size
            filled += 1
    ends.base, ends.next, ends.filled = base, 0, filled


cdef inline Py_ssize_t next_end(const uint8_t* text, Py_ssize_t size, Ends* ends) noexcept nogil:
    if ends.next == ends.filled:
        find_ends(text, size, ends)
        if not ends.filled:
            return size
    ends.next += 1
    return ends.at[ends.next - 1]


cdef Py_ssize_t read_record(
    const uint8_t* text, Py_ssize_t size, Py_ssize_t width, Ends* ends, const uint8_t* kinds, uint32_t* fields,
    Notes* notes, bint* is_broken,
) noexcept nogil:
    """Notes the fields of a record, as many as the table has, and counts them all; 0 for an empty line. `kinds` is the
    table of `notes`, with OPENS for the quote, and EMPTY for what may follow an empty field."""
    cdef Py_ssize_t start = ends.start, end, count = 0
    cdef bint is_last = False
    is_broken[0] = False
    if ends.filled - ends.next < width and not ends.is_over:
        find_ends(text, size, ends)
    if read_whole(text, size, width, ends, kinds, fields, notes, is_broken):
        return width
    if width > 1 and is_empty_line(text, size, start):
        ends.start = next_end(text, size, ends) + 1
        return 0
    while not is_last:
        end = next_end(text, size, ends)
        is_last = end >= size or text[end] == LINE_FEED
        if count < width:
            take_field(text, size, start, end, is_last, count, ends, kinds, fields, is_broken)
            note_field(text, fields + 2 * count, count, notes, 1)
        else:
            take_field(text, size, start, end, is_last, -1, ends, kinds, fields, is_broken)
        count += 1
        start = end + 1
    ends.start = start
    return count


cdef inline bint read_whole(
    const uint8_t* text, Py_ssize_t size, Py_ssize_t width, Ends* ends, const uint8_t* kinds, uint32_t* fields,
    Notes* notes, bint* is_broken,
) noexcept nogil:
    """Whether it could read a record that has just the fields of the table; else nothing is noted. Most fields are no
    more than their ends; what has quotes, a flag, a CR or nothing is looked at alone."""
    cdef const uint32_t* at = ends.at + ends.next
    cdef uint32_t start = <uint32_t>ends.start, end = 0
    cdef Py_ssize_t column, first, after
    cdef uint64_t alone
    cdef bint is_divided = False
    if ends.filled - ends.next < width or at[width - 1] >= size or text[at[width - 1]] != LINE_FEED:
        return False
    for column in range(width - 1):
        is_divided |= text[at[column]] == LINE_FEED
    if is_divided:
        return False
    for first in range(0, width, 64):
        after, alone = min(first + 64, width), 0
        for column in range(first, after):
            end = at[column]
            fields[2 * column], fields[2 * column + 1] = start, end
            notes.sizes[column] += end - start
            alone |= <uint64_t>(kinds[text[start]] != 0) << (column - first)
            start = end + 1
        if after == width and end and text[end - 1] == RETURN:
            alone |= <uint64_t>1 << (width - 1 - first)
        while alone:
            column = first + trailing_zeros(alone)
            alone &= alone - 1
            start, end = fields[2 * column], fields[2 * column + 1]
            notes.sizes[column] -= end - start
            take_field(text, size, start, end, column == width - 1, column, ends, kinds, fields, is_broken)
            note_field(text, fields + 2 * column, column, notes, 1)
        start = at[after - 1] + 1
    ends.start, ends.next = start, ends.next + width
    return True


cdef inline void take_field(
    const uint8_t* text, Py_ssize_t size, Py_ssize_t start, Py_ssize_t stop, bint is_last, Py_ssize_t column,
    Ends* ends, const uint8_t* kinds, uint32_t* fields, bint* is_broken,
) noexcept nogil:
    """Puts a field in its place, without its quotes and the CR of a line end. The column is -1 where it is none."""
    cdef uint32_t flags = 0
    if start < size and kinds[text[start]] & OPENS:
        flags = read_quoted(text, size, &start, &stop, is_last, ends, column, is_broken)
    elif is_last and stop > start and text[stop - 1] == RETURN:
        stop -= 1
        ends.met += 1
    if column >= 0:
        fields[2 * column], fields[2 * column + 1] = <uint32_t>start | flags, <uint32_t>stop


cdef uint32_t read_quoted(
    const uint8_t* text, Py_ssize_t size, Py_ssize_t* start, Py_ssize_t* stop, bint is_last, Ends* ends,
    Py_ssize_t column, bint* is_broken,
) noexcept nogil:
    """Takes the quotes off a field, with a CR behind them, and gives its flags. It is broken where text follows a
    closing quote."""
    cdef Py_ssize_t at = start[0] + 1, end = stop[0], returned = 0, left
    cdef uint32_t flags = QUOTED, found
    cdef uint8_t[16] rest
    cdef const uint8_t* part
    cdef bint needs_quotes = False
    if is_last and end > at and text[end - 1] == RETURN:
        end -= 1
        returned = 1
    end -= 1
    if end < at or text[end] != ends.quote:
        is_broken[0] = True
        return flags
    start[0], stop[0] = at, end
    while at < end:
        left, part = end - at, text + at
        if at + 16 > size:
            memset(rest, 0, 16)
            memcpy(rest, part, left)
            part = rest
        found = any_of_16(part, ends.quote, ends.delimiter, LINE_FEED, RETURN)
        if left < 16:
            found &= (1 << left) - 1
        left = 16
        while found:
            needs_quotes = True
            if part[trailing_zeros(found)] == ends.quote:
                left = trailing_zeros(found)
                if at + left + 1 >= end or text[at + left + 1] != ends.quote:
                    is_broken[0] = True
                    return flags
                flags |= DOUBLED
                left += 2  # on from behind them
                break
            found &= found - 1
        at += left
    ends.met += returned
    if column >= 0 and not needs_quotes and stop[0] > start[0]:
        ends.as_is[column] = False
    return flags


cdef struct Column:
    uint8_t* content
    int32_t* offsets
    uint8_t* valid  # bits
    Py_ssize_t to  # bytes that are written
    Py_ssize_t nulls
    Py_ssize_t field
    Py_ssize_t room, rows_room, bits_room  # bytes of memory, where it grows


cdef list gathered(
    const uint8_t* text, Py_ssize_t size, const uint32_t* places, Py_ssize_t width, uint8_t quote, object fields,
    const int64_t* sizes, const int64_t* chosen, Py_ssize_t rows,
):
    """The columns of some fields. Some rows at a time go to all of them, so that their bytes are still near."""
    import numpy as np

    cdef uint8_t[::1] content, valid
    cdef int32_t[::1] offsets
    cdef Py_ssize_t index, known = len(fields), first = 0, at_once = max(1, rows * NEAR // max(1, size) // 8) * 8
    cdef Column* columns = <Column*>malloc(max(1, known) * sizeof(Column))
    if columns == NULL:
        raise MemoryError
    try:
        found = []
        for index in range(known):
            content, offsets = np.empty(sizes[index] + SLACK, np.uint8), np.zeros(rows + 1, np.int32)
            valid = np.zeros(rows // 8 + 1, np.uint8)
            found.append((content.base, offsets.base, valid.base))
            columns[index] = Column(&content[0], &offsets[0], &valid[0], 0, 0, fields[index], 0, 0, 0)
        with nogil:
            while first < rows:
                for index in range(known):
                    gather(text, size, places, width, quote, chosen, first, min(rows, first + at_once), &columns[index])
                first += at_once
        return [
            (found[index][0][: columns[index].to], found[index][1], found[index][2] if columns[index].nulls else None,
             columns[index].nulls)
            for index in range(known)
        ]
    finally:
        free(columns)


cdef void gather(
    const uint8_t* text, Py_ssize_t size, const uint32_t* places, Py_ssize_t width, uint8_t quote,
    const int64_t* chosen, Py_ssize_t first, Py_ssize_t last, Column* column,
) noexcept nogil:
    """Some rows of a column; the first of them is a multiple of eight."""
    cdef Column own = column[0]  # a copy of its own stays in registers
    cdef const uint32_t* field = places + 2 * own.field
    cdef Py_ssize_t row, at, start, end, step = 2 * width
    cdef uint32_t place
    cdef uint8_t bits = 0
    for row in range(first, last):
        at = record_of(chosen, row) * step
        place, end = field[at], field[at + 1]
        start = place & PLACE
        if place & DOUBLED:
            own.to += without_doubled(own.content + own.to, text + start, end - start, quote)
        else:
            copy_short(own.content + own.to, text + start, end - start, end + SLACK <= size)
            own.to += end - start
        own.offsets[row + 1] = <int32_t>own.to
        if end > start or place & QUOTED:
            bits |= 1 << (row & 7)
        else:
            own.nulls += 1
        if row & 7 == 7 or row == last - 1:
            own.valid[row >> 3], bits = bits, 0
    column[0] = own


cdef Py_ssize_t without_doubled(uint8_t* to, const uint8_t* cell, Py_ssize_t count, uint8_t quote) noexcept nogil:
    """Copies a cell with one quote for two, and gives its bytes."""
    cdef Py_ssize_t at = 0, written = 0
    while at < count:
        to[written] = cell[at]
        at += 2 if cell[at] == quote else 1
        written += 1
    return written
