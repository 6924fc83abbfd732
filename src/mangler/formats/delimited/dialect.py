"""How an extract spells its table: delimiter, quote, line end; detected where the recipe does not say."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from mangler.formats.delimited.records import Spelling, find_marks, split_record
from mangler.kernels.text import bits

CANDIDATES = (",", ";", "\t", "|", "\x1f", "¦", "^", "~", ":")
SAMPLE_RECORDS = 60
NAMES_OF_DELIMITERS = {"\t": "tab", " ": "space", "\x1f": "unit separator (1F)"}


@dataclass(frozen=True)
class Dialect:
    """`delimiter` and `quote` are one character; `line_end` is LF or CRLF."""

    delimiter: str
    quote: str
    line_end: str
    byte_order_mark: bool
    escape: str = ""
    comment: str = ""

    @property
    def spelling(self) -> Spelling:
        return spelling_of(self.delimiter, self.quote, self.escape, self.comment)


def spelling_of(delimiter: str, quote: str, escape: str = "", comment: str = "") -> Spelling:
    return Spelling(delimiter.encode(), ord(quote), escape.encode(), comment.encode())


def name_of(delimiter: str) -> str:
    """A delimiter as a message shows it."""
    return NAMES_OF_DELIMITERS.get(delimiter, f'"{delimiter}"')


def find_delimiter(sample: bytes, quote: str, complete: bool) -> str | None:
    """The delimiter under which most of the first records have as many fields as the first one.

    `sample` starts at the header; its last record is left out unless the sample is `complete`. None when no
    delimiter splits the header.
    """
    best, best_score = None, (0.0, False, 0)
    data = np.frombuffer(sample, np.uint8)
    for candidate in CANDIDATES:
        counts = [len(fields) for fields in sample_records(sample, candidate, quote, complete)]
        if not counts or counts[0] < 2:
            continue
        agreeing = sum(count == counts[0] for count in counts) / len(counts)
        # Split wrongly, a quote may take in all that follows it: then the one record agrees with itself.
        closed = find_marks(data, spelling_of(candidate, quote)).unclosed < 0
        score = (round(agreeing, 1), closed, counts[0])
        if score > best_score:
            best, best_score = candidate, score
    return best


def sample_records(sample: bytes, delimiter: str, quote: str, complete: bool) -> list[list[bytes]]:
    """The fields of the first records of a sample."""
    spelling = spelling_of(delimiter, quote)
    data = np.frombuffer(sample, np.uint8)
    ends = bits.positions(find_marks(data, spelling).line_ends).tolist()
    if complete and (not ends or ends[-1] != len(sample) - 1):
        ends.append(len(sample))
    records, start = [], 0
    for end in ends:
        record = sample[start:end].removesuffix(b"\r")
        start = end + 1
        if record:
            records.append(split_record(record, spelling))
        if len(records) == SAMPLE_RECORDS:
            break
    return records
