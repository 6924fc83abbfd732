"""Which delimiter a sample of text shows: the one under which its records agree about their number of fields."""

from __future__ import annotations

import re
from collections import Counter

import numpy as np

from mangler.formats.delimited.cell_kinds import is_number_or_date
from mangler.formats.delimited.dialect import fields_of, spelling_of
from mangler.formats.delimited.records import Spelling, find_marks
from mangler.kernels.text import bits
from mangler.late_dataclass import dataclass

STRONG = (",", ";", "\t", "|", "\x1f", "¦")
WEAK = ("^", "~", ":")
"""Found in text that is no table as well: their records must agree nearly all."""
SEVERAL = re.compile(rb"[|~^:#@$*+=<>!&\\]{2,3}")
"""A delimiter of several characters is of such ones."""
SAMPLE_RECORDS = 60
LEAST_AGREEMENT = 0.5
NEARLY_ALL = 0.9
FEW_RECORDS = 8
"""From so many lines of text on, the same number of words in each is no coincidence."""
LONG_FIELD = 24
"""Bytes of a field in prose, on average."""


@dataclass(frozen=True)
class Delimiter:
    text: str
    in_runs: bool = False


@dataclass(frozen=True)
class Split:
    """The first records of a sample, split at a delimiter."""

    delimiter: Delimiter
    records: list[list[bytes]]
    closed: bool
    """Whether all quotes that are opened are closed."""
    starts: tuple[int, ...] = ()
    """Where in the sample each record starts."""
    below_titles: bool = False
    """Whether there are lines before them that are no records."""

    @property
    def counts(self) -> list[int]:
        return [len(fields) for fields in self.records]

    @property
    def width(self) -> int:
        """The number of fields that most records have; of the first one where it is as frequent."""
        counts = Counter(self.counts)
        return max(counts, key=lambda count: (counts[count], count == len(self.records[0])))

    @property
    def agreement(self) -> float:
        """The share of records that have as many fields as most."""
        width = self.width
        return sum(count == width for count in self.counts) / len(self.records)

    @property
    def lacks_a_name(self) -> bool:
        """Whether the first record is one field shorter than every other one: its first name is missing."""
        first, *others = self.counts
        return bool(others) and all(count == first + 1 for count in others)

    @property
    def starts_with_names(self) -> bool:
        """Whether the first record is a list of names, without spaces behind the marks as sentences have them."""
        names = self.records[0]
        return len(names) > 1 and all(field and not field.startswith(b" ") for field in names)

    @property
    def is_prose(self) -> bool:
        """Whether the delimiter is punctuation in sentences: a space always follows, and the fields differ in number
        or are long."""
        fields = [field for record in self.records[1:] for field in record[1:]]
        if self.starts_with_names or not fields or not all(field.startswith(b" ") for field in fields):
            return False
        size = sum(map(len, fields)) / len(fields)
        return self.agreement < NEARLY_ALL or size > LONG_FIELD or self.counts[0] < self.width


def find_delimiter(sample: bytes, quote: str, complete: bool, comment: bytes = b"") -> Delimiter | None:
    """The delimiter that splits the first record, and most records into as many fields.

    `sample` starts at the header; its last record is left out unless the sample is `complete`. None where there is no
    sign of more than one column.
    """
    splits = [
        split
        for delimiter in (*STRONG, *WEAK, *_several(sample, comment))
        if delimiter.encode() in sample
        and (split := split_at(sample, Delimiter(delimiter), quote, complete, comment)).records
        and _fits_from_the_first_record(split)
    ]
    best = max(splits, key=_rank, default=None)
    if best is not None and (
        best.agreement >= LEAST_AGREEMENT or _is_only_short(best) or best.starts_with_names
    ):
        return best.delimiter
    spaces = spaces_in(sample, quote, complete, comment)
    if spaces is not None:
        return spaces.delimiter
    return None


def split_at(sample: bytes, delimiter: Delimiter, quote: str, complete: bool, comment: bytes = b"") -> Split:
    """The fields of the first records that are no comments, and not empty."""
    spelling = spelling_of(delimiter.text, quote)
    data = np.frombuffer(sample, np.uint8)
    marks = find_marks(data, Spelling(spelling.delimiter, spelling.quote, b"", comment))
    ends = bits.positions(marks.line_ends).tolist()
    if complete and (not ends or ends[-1] != len(sample) - 1):
        ends.append(len(sample))
    records, starts, start = [], [], 0
    for end in ends:
        record = sample[start:end].removesuffix(b"\r")
        if record.strip() and not (comment and record.startswith(comment)):
            records.append(fields_of(record, spelling, delimiter.in_runs))
            starts.append(start)
        start = end + 1
        if len(records) == SAMPLE_RECORDS:
            break
    return Split(delimiter, records, marks.unclosed < 0, tuple(starts))


def spaces_in(sample: bytes, quote: str, complete: bool, comment: bytes = b"") -> Split | None:
    """The records split at single spaces or at runs of them, where these are surely delimiters.

    Words of a text are separated by spaces too: so nearly all records must agree, and there must be numbers or dates
    among the fields, or many records of the same number of words.
    """
    if b" " not in sample:
        return None
    for in_runs in (False, True):
        split = split_at(sample, Delimiter(" ", in_runs), quote, complete, comment)
        if len(split.records) < 2 or split.width < 2 or not split.closed:
            continue
        if not (split.agreement == 1 or split.lacks_a_name):
            continue
        body = split.records[1:]
        if not in_runs and any(not field for fields in split.records for field in fields):
            continue
        columns = zip(*body, strict=True)
        typed = sum(all(map(is_number_or_date, column)) for column in columns)
        if typed and (len(body) > 1 or typed == split.width):
            return split
        if split.width > 2 and len(body) >= FEW_RECORDS and not split.lacks_a_name:
            return split
    return None


def _several(sample: bytes, comment: bytes) -> list[str]:
    """Delimiters of several characters that the first record may have."""
    for line in sample.splitlines():
        if line.strip() and not (comment and line.startswith(comment)):
            found = Counter(match.group().decode() for match in SEVERAL.finditer(line))
            return list(found)
    return []


def _fits_from_the_first_record(split: Split) -> bool:
    first = split.counts[0]
    if split.is_prose or (split.width < 2 and not split.starts_with_names):
        return False
    if split.lacks_a_name:
        return first > 1 or (len(split.records) > 2 and split.delimiter.text in STRONG)
    if len(split.delimiter.text) > 1 or split.delimiter.text in WEAK:
        return first > 1 and split.agreement >= NEARLY_ALL
    return first > 1


def _is_only_short(split: Split) -> bool:
    """Whether all records that do not agree are shorter than the first one."""
    return max(split.counts) <= split.counts[0]


def _rank(split: Split) -> tuple[float, bool, bool, bool, float]:
    """Split wrongly, a quote may take in all that follows it: then the one record agrees with itself."""
    first = split.counts[0]
    agreeing = sum(count == first for count in split.counts) / len(split.records)
    if split.lacks_a_name:
        agreeing = NEARLY_ALL
    text = split.delimiter.text
    # "||" makes fields that "|" splits into more, every second one of them empty.
    several = len(text) > 1
    width = (split.width - 1) * len(text) + 1.5 if several else float(split.width)
    return round(agreeing, 1), split.closed, text not in WEAK, several and agreeing >= NEARLY_ALL, width
