"""White space off both ends of stretches of bytes, as arithmetic on where they start and end."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from mangler.blanks import BLANKS
from mangler.kernels.text.blank_bytes import MAY_CLOSE_BLANK, MAY_OPEN_BLANK
from mangler.kernels.text.text_view import Bytes, Flags, Positions
from mangler.kernels.text.white_space import blank_flags

ROUNDS = 4
"""So many blanks an end are taken one by one; longer runs are met by one look at all bytes."""


def _packed(spelled: bytes) -> int:
    return int.from_bytes(spelled, "big")


_SINGLE = np.zeros(256, np.bool_)
_SINGLE[[ord(blank) for blank in BLANKS if ord(blank) < 0x80]] = True
_OF_TWO = np.array(sorted(_packed(b.encode()) for b in BLANKS if len(b.encode()) == 2), np.int64)
_OF_THREE = np.array(sorted(_packed(b.encode()) for b in BLANKS if len(b.encode()) == 3), np.int64)


def trimmed_bounds(data: Bytes, starts: Positions, ends: Positions) -> tuple[Positions, Positions]:
    """The stretches without white space around them; one of white space only is empty."""
    if not len(data) or not len(starts):
        return starts, ends
    starts, ends = starts.copy(), ends.copy()
    _move(data, starts, ends, at_end=False)
    _move(data, starts, ends, at_end=True)
    return starts, ends


def _move(data: Bytes, starts: Positions, ends: Positions, at_end: bool) -> None:
    """Moves the starts on, or the ends back, in place."""
    edge = ends - 1 if at_end else starts
    suspicious = (MAY_CLOSE_BLANK if at_end else MAY_OPEN_BLANK)[data.take(edge, mode="clip")]
    live = np.flatnonzero(suspicious & (starts < ends))
    for _ in range(ROUNDS):
        if not len(live):
            return
        size = _blank_lengths(data, starts[live], ends[live], at_end)
        live, size = live[size > 0], size[size > 0]
        if at_end:
            ends[live] -= size
        else:
            starts[live] += size
        live = live[starts[live] < ends[live]]
    if len(live):
        ink = np.flatnonzero(~blank_flags(data))
        if at_end:
            position = np.searchsorted(ink, ends[live]) - 1
            last = np.where(position >= 0, ink[np.maximum(position, 0)] + 1 if len(ink) else 0, 0)
            ends[live] = np.maximum(last, starts[live])
        else:
            position = np.searchsorted(ink, starts[live])
            ends_all = np.append(ink, len(data))
            starts[live] = np.minimum(ends_all[position], ends[live])


def _blank_lengths(data: Bytes, starts: Positions, ends: Positions, at_end: bool) -> npt.NDArray[np.intp]:
    """The bytes of the white space with which each stretch starts, or ends; 0 where it does with none."""
    edge = ends - 1 if at_end else starts
    first = data[edge]
    size = _SINGLE[first].astype(np.intp)
    wide = np.flatnonzero(first >= 0x80)
    for width, spelled in ((2, _OF_TWO), (3, _OF_THREE)):
        fits = wide[ends[wide] - starts[wide] >= width]
        if len(fits):
            at = ends[fits] - width if at_end else starts[fits]
            size[fits[_spelled(data, at, width, spelled)]] = width
    return size


def _spelled(data: Bytes, at: Positions, width: int, known: npt.NDArray[np.int64]) -> Flags:
    value = np.zeros(len(at), np.int64)
    for distance in range(width):
        value = value << 8 | data[at + distance]
    flags: Flags = np.isin(value, known)
    return flags
