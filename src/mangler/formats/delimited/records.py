"""Where the records of delimited text end: at line ends that do not stand inside quotes.

A quote opens only at the start of a field, and closes where it is followed by a delimiter or a line end; a
doubled quote inside is a quote. Quotes anywhere else in an unquoted field are plain characters. Text after a
closing quote makes the record broken: whatever a reader took it for would be a guess.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from mangler.kernels.text_view import counts_before

Bytes = npt.NDArray[np.uint8]
Positions = npt.NDArray[np.intp]
NONE: Positions = np.zeros(0, np.intp)
LINE_FEED, RETURN = 10, 13


@dataclass(frozen=True)
class Quotes:
    """Quoted stretches by the positions of their quotes, and closing quotes that text follows.

    `marks` are opening and closing quotes in turn; a doubled quote may split its stretch in two. `unclosed` is
    where a quote was opened and not closed, -1 when all are closed.
    """

    marks: Positions
    broken: Positions
    unclosed: int
    mask: npt.NDArray[np.bool_] | None = None
    """The quotes as flags, where every one of them is among `marks`."""

    def contain(self, positions: Positions) -> npt.NDArray[np.bool_]:
        """Whether each position lies inside quotes."""
        if self.mask is not None:
            return (counts_before(self.mask, positions) & 1).astype(np.bool_)
        return (np.searchsorted(self.marks, positions) & 1).astype(np.bool_)


NO_QUOTES = Quotes(NONE, NONE, -1)


def find_quotes(data: Bytes, delimiter: bytes, quote: int) -> Quotes:
    """The quotes of data that starts where a record does."""
    mask = data == quote
    marks = np.flatnonzero(mask)
    if not len(marks):
        return NO_QUOTES
    return _by_parity(data, mask, marks, delimiter, quote) or _by_walking(data, marks, delimiter)


def _by_parity(
    data: Bytes, mask: npt.NDArray[np.bool_], marks: Positions, delimiter: bytes, quote: int
) -> Quotes | None:
    """Every second quote closes; None where the neighbours of any quote say otherwise."""
    opens, closes = marks[0::2], marks[1::2]
    before = data[np.maximum(opens - 1, 0)]
    starts_field = (opens == 0) | (before == LINE_FEED) | (before == quote)
    if len(delimiter) == 1:
        starts_field |= before == delimiter[0]
    else:
        starts_field |= _ends_here(data, opens, delimiter)
    if not starts_field.all():
        return None
    size = len(data)
    after = data[np.minimum(closes + 1, size - 1)]
    ends_field = (closes == size - 1) | (after == LINE_FEED) | (after == quote)
    ends_field |= (after == RETURN) & (data[np.minimum(closes + 2, size - 1)] == LINE_FEED)
    ends_field |= (after == RETURN) & (closes == size - 2)
    if len(delimiter) == 1:
        ends_field |= after == delimiter[0]
    else:
        ends_field |= _ends_here(data, closes + 1 + len(delimiter), delimiter)
    if not ends_field.all():
        return None
    unclosed = int(opens[-1]) if len(opens) > len(closes) else -1
    return Quotes(marks, NONE, unclosed, mask)


def _ends_here(data: Bytes, positions: Positions, delimiter: bytes) -> npt.NDArray[np.bool_]:
    """Whether a delimiter of several bytes ends right before each position."""
    flags = (positions >= len(delimiter)) & (positions <= len(data))
    for distance, byte in enumerate(reversed(delimiter), 1):
        flags &= data[np.clip(positions - distance, 0, len(data) - 1)] == byte
    return flags


def _by_walking(data: Bytes, marks: Positions, delimiter: bytes) -> Quotes:
    """One quote after the other, for data with quotes in unquoted fields or text after closing ones."""
    text = data.tobytes()
    places = marks.tolist()
    kept, broken = [], []
    unclosed, index, count = -1, 0, len(places)
    while index < count:
        mark = places[index]
        if not (mark == 0 or text[mark - 1] == LINE_FEED or text.endswith(delimiter, 0, mark)):
            index += 1
            continue
        close = index + 1
        while close + 1 < count and places[close + 1] == places[close] + 1:
            close += 2
        kept.append(mark)
        if close >= count:
            unclosed = mark
            break
        end = places[close]
        kept.append(end)
        if not (
            end + 1 == len(text)
            or text[end + 1] == LINE_FEED
            or text.startswith((delimiter, b"\r\n"), end + 1)
            or text[end + 1 :] == b"\r"
        ):
            broken.append(end)
        index = close + 1
    return Quotes(np.array(kept, np.intp), np.array(broken, np.intp), unclosed)


def line_ends(data: Bytes, quotes: Quotes) -> Positions:
    """Where records end: the line feeds outside quotes."""
    ends = np.flatnonzero(data == LINE_FEED)
    if len(quotes.marks) and len(ends):
        inside = quotes.contain(ends)
        if inside.any():
            ends = ends[~inside]
    return ends


def split_record(record: bytes, delimiter: bytes, quote: int) -> list[bytes]:
    """The fields of one record as they are spelled, quotes and all."""
    data = np.frombuffer(record, np.uint8)
    quotes = find_quotes(data, delimiter, quote)
    fields, start, searched = [], 0, 0
    while (at := record.find(delimiter, searched)) >= 0:
        searched = at + len(delimiter)
        if quotes.contain(np.array([at]))[0]:
            continue
        fields.append(record[start:at])
        start = searched
    return [*fields, record[start:]]


def field_text(field: bytes, quote: str) -> str:
    """The text of a field: quotes off, doubled ones single."""
    text = field.decode("utf-8")
    if len(text) >= 2 and text.startswith(quote) and text.endswith(quote):
        return text[1:-1].replace(quote * 2, quote)
    return text
