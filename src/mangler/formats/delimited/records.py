"""Where the records of delimited text end: at line ends that are not inside quotes.

A quote opens only at the start of a field, and closes where it is followed by a delimiter or a line end; a
doubled quote inside is a quote. Quotes anywhere else in an unquoted field are plain characters. Text after a
closing quote makes the record broken: whatever a reader took it for would be a guess.
"""

from __future__ import annotations

import re
from dataclasses import field, replace
from functools import cached_property
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from mangler.kernels import compiled
from mangler.kernels.text import bits
from mangler.kernels.text.bits import Words
from mangler.late_dataclass import dataclass

Bytes = npt.NDArray[np.uint8]
Positions = npt.NDArray[np.intp]
NONE: Positions = np.zeros(0, np.intp)
LINE_FEED, RETURN = 10, 13


@dataclass(frozen=True)
class Spelling:
    """How fields and records are distinguished, as bytes. `escape` takes any meaning from the character after it;
    lines that start with `comment` are skipped. Both are empty when there is no such thing."""

    delimiter: bytes
    quote: int
    escape: bytes = b""
    comment: bytes = b""


class Whole(NamedTuple):
    """What is in the whole records at the front of some data."""

    size: int
    line_ends: int
    """Line feeds outside quotes."""
    empty_lines: int
    line_feeds: int


@dataclass(frozen=True)
class Marks:
    """The line ends of some data that starts where a record does, and what is inside its quotes.

    `inside` has a bit set from each opening quote up to its closing one, but perhaps not for quotes between them.
    `broken` are closing quotes that text follows. `unclosed` is where a quote was opened and not closed, -1 when all
    are closed. `is_sound`: all quotes are those of quoted fields.
    """

    line_feeds: Words
    returns: Words | None
    inside: Words | None
    broken: Positions
    unclosed: int
    is_sound: bool
    known_ends: Words | None = None
    """The ends of fields, where they were found with them."""
    whole: Whole | None = None
    """Where that was counted with them."""
    nul: int | None = None
    """Where the first NUL is, -1 for none; None where none was looked for."""
    comments: Positions = field(default_factory=lambda: NONE)
    """Where comment lines start."""

    @cached_property
    def line_ends(self) -> Words:
        """The line feeds outside quotes, each of which ends a record or an empty line."""
        return self.line_feeds if self.inside is None else self.line_feeds & ~self.inside

    @cached_property
    def empty_lines(self) -> Words:
        """The line ends that end an empty line."""
        ends, feeds = self.line_ends, self.line_feeds
        empty = ends & bits.after(ends)
        empty[0] |= ends[0] & bits.ONE
        if self.returns is not None:
            opens = bits.after(ends)
            opens[0] |= bits.ONE
            empty |= feeds & ends & bits.after(self.returns & opens)
        return empty

    def whole_records(self, size: int) -> int:
        """How many bytes at the front of so many, which are all, are whole records."""
        if self.whole is not None:
            return self.whole.size
        end = size if self.unclosed < 0 else self.unclosed
        return bits.last(self.line_ends, end) + 1  # a line end neither inside quotes nor escaped

    def counts(self, size: int, last: bytes, one_column: bool) -> tuple[int, int, int]:
        """How many rows, empty lines and comments are in so many bytes, whose last two are `last`."""
        whole = self.whole if self.whole is not None and size >= self.whole.size else None
        count = bits.count_up_to(self.line_ends, size) if whole is None else whole.line_ends
        count += size > 0 and not last.endswith(b"\n")
        empty_lines = 0
        if not one_column:
            empty_lines = bits.count_up_to(self.empty_lines, size) if whole is None else whole.empty_lines
            # What follows the last line end may be a lone CR.
            empty_lines += last == b"\n\r" or (size == 1 and last == b"\r")
        comments = int(np.count_nonzero(self.comments < size))
        return count - empty_lines - comments, empty_lines, comments

    def quoted(self, positions: Positions) -> npt.NDArray[np.bool_]:
        """Whether each position lies inside quotes."""
        if self.inside is None:
            return np.zeros(len(positions), np.bool_)
        return bits.are_set(self.inside, positions)


def find_marks(data: Bytes, spelling: Spelling) -> Marks:
    if compiled.records is None or spelling.escape or spelling.comment or spelling.quote < 0:
        return _marks_by_numpy(data, spelling)
    feeds, returns, inside, ends, is_sound, broken, unclosed, nul, whole = compiled.records.marks(
        data, spelling.delimiter, spelling.quote
    )
    return Marks(feeds, returns, inside, broken, unclosed, is_sound, ends, Whole(*whole), nul)


def _marks_by_numpy(data: Bytes, spelling: Spelling) -> Marks:
    feed_flags, return_flags, quotes = data == LINE_FEED, data == RETURN, data == spelling.quote
    escaped = _escaped(data, spelling.escape)
    if len(escaped):
        for flags in (feed_flags, return_flags, quotes):
            flags[escaped] = False
    line_feeds = bits.pack(feed_flags)
    returns = bits.pack(return_flags) if return_flags.any() else None
    found = _find_quoted(data, spelling, quotes, line_feeds, returns, escaped)
    if spelling.comment:
        return replace(found, comments=_comment_lines(data, spelling.comment, found))
    return found


def _find_quoted(
    data: Bytes,
    spelling: Spelling,
    quotes: npt.NDArray[np.bool_],
    line_feeds: Words,
    returns: Words | None,
    escaped: Positions,
) -> Marks:
    if not quotes.any():
        return Marks(line_feeds, returns, None, NONE, -1, is_sound=True)
    marks = bits.pack(quotes)
    if spelling.comment and _may_have_comments(data, spelling.comment):
        inside, broken, unclosed = _by_walking(data, bits.positions(marks), spelling)
        return Marks(line_feeds, returns, inside, broken, unclosed, is_sound=False)
    inside = bits.odd_so_far(marks)
    # The words go on past the data: nothing there is inside.
    _clear_from(inside, len(data))
    if _is_sound(data, marks, inside, line_feeds, returns, spelling.delimiter, escaped):
        unclosed = _last_opened(bits.positions(marks)) if bits.count(marks) & 1 else -1
        return Marks(line_feeds, returns, inside, NONE, unclosed, is_sound=True)
    inside, broken, unclosed = _by_walking(data, bits.positions(marks), spelling)
    return Marks(line_feeds, returns, inside, broken, unclosed, is_sound=False)


def _last_opened(marks: Positions) -> int:
    """Which of an odd number of sound quotes opened the last field: those behind it in pairs are doubled."""
    index = len(marks) - 1
    while index >= 2 and marks[index] == marks[index - 1] + 1:
        index -= 2
    return int(marks[index])


def _escaped(data: Bytes, escape: bytes) -> Positions:
    """The characters after an escape, which mean nothing but themselves."""
    if not escape:
        return NONE
    text = data.tobytes()
    if escape not in text:
        return NONE
    pattern = re.compile(re.escape(escape) + b".", re.DOTALL)
    return np.array([match.end() - 1 for match in pattern.finditer(text)], np.intp)


def _may_have_comments(data: Bytes, comment: bytes) -> bool:
    text = data.tobytes()
    return text.startswith(comment) or b"\n" + comment in text


def _comment_lines(data: Bytes, comment: bytes, marks: Marks) -> Positions:
    """Where lines start that are comments: right after a line end, outside quotes."""
    text = data.tobytes()
    starts = [0] if text.startswith(comment) else []
    at = text.find(b"\n" + comment)
    while at >= 0:
        starts.append(at + 1)
        at = text.find(b"\n" + comment, at + 1)
    found = np.array(starts, np.intp)
    outside: npt.NDArray[np.bool_] = (found == 0) | bits.are_set(marks.line_ends, np.maximum(found - 1, 0))
    starts_of_comments: Positions = found[outside]
    return starts_of_comments


def _is_sound(
    data: Bytes,
    marks: Words,
    inside: Words,
    line_feeds: Words,
    returns: Words | None,
    delimiter: bytes,
    escaped: Positions,
) -> bool:
    """Whether every opening quote starts a field and every closing one ends it, taking them in turn.

    A doubled quote closes and opens again, so that quotes may also be next to each other.
    """
    delimiters, after_delimiters = _delimiters(data, delimiter, escaped)
    opens, closes = marks & inside, marks & ~inside
    may_open = bits.after(line_feeds | marks) | after_delimiters
    may_open[0] |= bits.ONE
    if (opens & ~may_open).any():
        return False
    may_close = bits.before(line_feeds | marks | delimiters)
    if returns is not None:
        ended = returns & bits.before(line_feeds)
        if len(data) and data[-1] == RETURN:
            _set(ended, len(data) - 1)
        may_close |= bits.before(ended)
    if len(data):
        _set(may_close, len(data) - 1)
    return not (closes & ~may_close).any()


def delimiters_in(data: Bytes, spelling: Spelling, marks: Marks) -> Words:
    """The delimiters that divide fields: those outside quotes."""
    words, _ = _delimiters(data, spelling.delimiter, _escaped(data, spelling.escape))
    return words if marks.inside is None else words & ~marks.inside[: len(words)]


def field_ends(data: Bytes, spelling: Spelling, marks: Marks) -> Words:
    """The delimiters and line feeds outside quotes."""
    if marks.known_ends is not None:
        return marks.known_ends
    ends = delimiters_in(data, spelling, marks)
    return ends | marks.line_ends[: len(ends)]


def _delimiters(data: Bytes, delimiter: bytes, escaped: Positions) -> tuple[Words, Words]:
    """Where delimiters start, and where what follows them starts."""
    starts = data == delimiter[0]
    for distance, byte in enumerate(delimiter[1:], 1):
        starts[:-distance] &= data[distance:] == byte
        starts[-distance:] = False
    starts[escaped] = False
    if _overlaps_itself(delimiter):
        _keep_apart(starts, len(delimiter))
    words = bits.pack(starts)
    following = words
    for _ in delimiter:
        following = bits.after(following)
    return words, following


def _overlaps_itself(delimiter: bytes) -> bool:
    """Whether a second one may start inside the first: `||` in `|||`."""
    return any(delimiter.endswith(delimiter[:size]) for size in range(1, len(delimiter)))


def _keep_apart(starts: npt.NDArray[np.bool_], size: int) -> None:
    """Takes out starts that are inside the delimiter before them."""
    where = np.flatnonzero(starts)
    close = np.diff(where) < size
    if not close.any():
        return
    last = -size
    for at in where[np.append(close, False) | np.append(False, close)].tolist():
        if at - last < size:
            starts[at] = False
        else:
            last = at


def _by_walking(data: Bytes, marks: Positions, spelling: Spelling) -> tuple[Words, Positions, int]:
    """One quote after the other, for data with quotes in unquoted fields or text after closing ones."""
    text, delimiter, comment = data.tobytes(), spelling.delimiter, spelling.comment
    positions = marks.tolist()
    lines = _line_starts(data, marks).tolist() if comment else positions
    kept, broken = [], []
    unclosed, index, count, size = -1, 0, len(positions), len(text)
    while index < count:
        mark = positions[index]
        if not (mark == 0 or text[mark - 1] == LINE_FEED or text.endswith(delimiter, 0, mark)):
            index += 1
            continue
        if comment and text.startswith(comment, lines[index]):
            index += 1  # outside quotes the line's start is a record's, and this record is a comment
            continue
        close = index + 1
        while close + 1 < count and positions[close + 1] == positions[close] + 1:
            close += 2
        kept.append(mark)
        if close >= count:
            unclosed = mark
            break
        end = positions[close]
        kept.append(end)
        if not (
            end + 1 == len(text)
            or text[end + 1] == LINE_FEED
            or text.startswith((delimiter, b"\r\n"), end + 1)
            or (end + 2 == size and text[end + 1] == RETURN)
        ):
            broken.append(end)
        index = close + 1
    flags = np.zeros(len(data), np.bool_)
    flags[kept] = True
    inside = bits.odd_so_far(bits.pack(flags))
    _clear_from(inside, len(data))
    return inside, np.array(broken, np.intp), unclosed


def _line_starts(data: Bytes, positions: Positions) -> Positions:
    """Where the physical line of each of these bytes starts."""
    feeds = np.append(-1, np.flatnonzero(data == LINE_FEED))
    starts: Positions = feeds[np.searchsorted(feeds, positions) - 1] + 1
    return starts


def _clear_from(words: Words, position: int) -> None:
    word = position >> 6
    words[word] &= (bits.ONE << np.uint64(position & 63)) - bits.ONE
    words[word + 1 :] = 0


def _set(words: Words, position: int) -> None:
    words[position >> 6] |= bits.ONE << np.uint64(position & 63)


def split_record(record: bytes, spelling: Spelling) -> list[bytes]:
    """The fields of one record as they are spelled, quotes and all."""
    delimiter = spelling.delimiter
    if spelling.quote not in record and not (spelling.escape and spelling.escape in record):
        return record.split(delimiter)
    data = np.frombuffer(record, np.uint8)
    marks = find_marks(data, replace(spelling, comment=b""))
    positions = bits.positions(delimiters_in(data, spelling, marks))
    fields, start = [], 0
    for at in positions.tolist():
        if at >= start:  # a delimiter of several bytes may seem to start inside one
            fields.append(record[start:at])
            start = at + len(delimiter)
    return [*fields, record[start:]]


def field_text(field: bytes, quote: str, escape: str = "") -> str:
    """The text of a field: quotes off, doubled ones single, escapes gone."""
    text = field.decode("utf-8")
    if escape:
        text = re.sub(re.escape(escape) + "(.)", r"\1", text, flags=re.DOTALL)
    if len(text) >= 2 and text.startswith(quote) and text.endswith(quote):
        return text[1:-1].replace(quote * 2, quote)
    return text
