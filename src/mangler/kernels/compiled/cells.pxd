# cython: language_level=3
"""The cells of a text column where they lie in memory."""

from libc.stdint cimport int32_t, uint8_t

cdef struct Cells:
    const uint8_t* data
    Py_ssize_t size  # bytes of `data`
    const int32_t* offsets
    const uint8_t* valid  # bits; NULL where no cell is null
    Py_ssize_t skip  # bits before that of the first cell

cdef inline bint is_null(Cells* cells, Py_ssize_t row) noexcept nogil:
    if cells.valid == NULL:
        return False
    return not (cells.valid[(cells.skip + row) >> 3] >> ((cells.skip + row) & 7)) & 1

cdef inline list held_cells(object array, Cells* cells):
    """Points to the buffers of a string column of pyarrow; the views that come back keep them."""
    cdef const signed char[::1] data, offsets, valid  # what pyarrow calls its bytes
    valid_buffer, offset_buffer, data_buffer = array.buffers()
    held = []
    cells.data, cells.size, cells.offsets, cells.valid, cells.skip = NULL, 0, NULL, NULL, array.offset
    if offset_buffer is not None and offset_buffer.size:
        offsets = offset_buffer
        cells.offsets = <const int32_t*>&offsets[0] + <Py_ssize_t>array.offset
        held.append(offsets)
    if data_buffer is not None and data_buffer.size:
        data = data_buffer
        cells.data, cells.size = <const uint8_t*>&data[0], data.shape[0]
        held.append(data)
    if array.null_count and valid_buffer is not None:
        valid = valid_buffer
        cells.valid = <const uint8_t*>&valid[0]
        held.append(valid)
    return held
