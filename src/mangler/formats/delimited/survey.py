"""Detects where a table is in a text: what is above its header, whether it has one, and what divides its fields.

This is for looking at a file that nobody has described yet. A run reads as its recipe says: what was detected is
given as the words of `read` that say the same.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise

from mangler.formats.delimited.cell_kinds import is_null, text_is_value, text_of
from mangler.formats.delimited.delimiter_search import (
    Delimiter,
    Split,
    find_delimiter,
    spaces_in,
    split_at,
)
from mangler.formats.delimited.dialect import cut_by_widths
from mangler.formats.delimited.width_search import find_widths
from mangler.table.settings import ReadSettings

COMMENTS = (b"#", b"%", b"//")
MOST_TITLES = 12
"""Lines above a header."""
CANDIDATES = (",", ";", "\t", "|")
"""Delimiters of tables that have titles above them."""
MOSTLY = 0.8
MANY_SHORT = 0.1
LEAST_BODY, MOST_CELLS = 8, 20_000
"""Rows, and cells, that show the kinds of columns."""
LONGEST_NAME = 40
"""Characters of a name in a second header line."""
FEW_ROWS = 3
YEARS = range(1500, 2200)


def survey(sample: bytes, complete: bool, settings: ReadSettings) -> ReadSettings:
    """The settings, with what they leave open about the place of the table.

    `sample` is the text from the first line that is not skipped; its last line is left out unless it is `complete`.
    What is said is left as it is. Where there is no sign of anything unusual, nothing is added.
    """
    if not complete:
        sample = sample[: sample.rfind(b"\n") + 1] or sample
    found = settings
    if not settings.comment and settings.header_row is None:
        found = replace(found, comment=_comment_of(sample))
    comment = found.comment.encode()
    above = 0
    if found.header_row is not None:
        above = _line_start(sample, found.header_row)
    split = _split_as_said(sample[above:], found, comment)
    if split is None:
        split, found = _divided(sample[above:], found, comment)
    if split is None or not split.records:
        return found
    return _with_header(sample, above, split, found)


def _comment_of(sample: bytes) -> str:
    """The mark of comment lines above the table; empty where there are none, or where rows may start with it."""
    for mark in COMMENTS:
        lines = [line for line in sample.splitlines() if line.strip()]
        comments = next((i for i, line in enumerate(lines) if not line.startswith(mark)), len(lines))
        if not comments or comments == len(lines):
            continue
        if _is_header(lines[comments - 1].removeprefix(mark), lines[comments : comments + 20]):
            continue  # the header itself has a mark in front
        return mark.decode()
    return ""


def _is_header(line: bytes, body: Sequence[bytes]) -> bool:
    """Whether a line has as many fields as all lines after it, which start otherwise than it does."""
    for mark in (b",", b";", b"\t", b"|"):
        width = line.count(mark)
        if width and all(other.count(mark) == width for other in body):
            first = [text_of(other.split(mark)[-1]) for other in body]
            return any(map(text_is_value, first)) and not text_is_value(text_of(line.split(mark)[-1]))
    return False


def _line_start(sample: bytes, line: int) -> int:
    start = 0
    for _ in range(line - 1):
        at = sample.find(b"\n", start)
        if at < 0:
            return len(sample)
        start = at + 1
    return start


def _split_as_said(sample: bytes, settings: ReadSettings, comment: bytes) -> Split | None:
    """The records as the settings say; None where they leave that open."""
    if settings.widths:
        return _cut(sample, settings.widths, comment)
    if settings.delimiter is None:
        return None
    return split_at(sample, Delimiter(settings.delimiter, settings.in_runs), settings.quote, True, comment)


def _cut(sample: bytes, widths: tuple[int, ...], comment: bytes) -> Split:
    records, starts, start = [], [], 0
    for line in sample.splitlines(keepends=True):
        if line.strip() and not (comment and line.startswith(comment)):
            records.append(cut_by_widths(line.rstrip(b"\r\n"), widths))
            starts.append(start)
        start += len(line)
    return Split(Delimiter(""), records[:60], True, tuple(starts[:60]))


def _divided(sample: bytes, settings: ReadSettings, comment: bytes) -> tuple[Split | None, ReadSettings]:
    """The records split at what fits them best: a delimiter from the first line on, one below titles, or widths."""
    quote = settings.quote
    delimiter = find_delimiter(sample, quote, True, comment)
    below = None if settings.header_row is not None else _below_titles(sample, quote, comment)
    if delimiter is not None:
        split = split_at(sample, delimiter, quote, True, comment)
        if below is None or (split.agreement >= MOSTLY and _first_row(split) == 0):
            return split, replace(settings, delimiter=delimiter.text, in_runs=delimiter.in_runs)
    if below is not None:
        found = below.delimiter
        return below, replace(settings, delimiter=found.text, in_runs=found.in_runs)
    for start in _line_starts(sample)[1:]:
        spaces = spaces_in(sample[start:], quote, True, comment)
        if spaces is not None and len(spaces.records) > FEW_ROWS + 1:
            found = spaces.delimiter
            return _shifted(spaces, start), replace(settings, delimiter=found.text, in_runs=found.in_runs)
    for at in dict.fromkeys((0, _past_titles(sample, comment))):
        if widths := find_widths(sample[at:], comment):
            split = _cut(sample[at:], widths, comment)
            return _shifted(split, at), replace(settings, widths=widths)
    one_column = split_at(sample, Delimiter("\x1f"), quote, True, comment)
    return one_column, settings


def _line_starts(sample: bytes) -> list[int]:
    """Where the first lines start."""
    starts = [0]
    for line in sample.splitlines(keepends=True)[:MOST_TITLES]:
        starts.append(starts[-1] + len(line))
    return starts


def _shifted(split: Split, start: int) -> Split:
    """Records that were found behind some titles, with their places in the whole sample."""
    starts = tuple(at + start for at in split.starts)
    return replace(split, starts=starts, below_titles=start > 0)


def _past_titles(sample: bytes, comment: bytes) -> int:
    """Where the text goes on behind titles that a blank line ends; 0 where it has none."""
    start, seen = 0, 0
    for line in sample.splitlines(keepends=True)[:MOST_TITLES]:
        start += len(line)
        if not line.strip():
            if seen:
                return start
        elif not (comment and line.startswith(comment)):
            seen += 1
    return 0


def _below_titles(sample: bytes, quote: str, comment: bytes) -> Split | None:
    """The records under the delimiter that divides those below some titles; None where there are no titles."""
    best = None
    for candidate in CANDIDATES:
        if candidate.encode() not in sample:
            continue
        split = split_at(sample, Delimiter(candidate), quote, True, comment)
        at = _first_row(split)
        if not at or split.width < 2:
            continue
        body = split.records[at:]
        agreement = sum(len(fields) == split.width for fields in body) / len(body)
        if agreement < MOSTLY or len(body) < 2 or split.is_prose:
            continue
        if split.width == 2 and _kind_columns(body[1:])[0] == 0:
            continue  # sentences with one mark in each
        if best is None or split.width > best.width:
            best = split
    return best


def _first_row(split: Split) -> int:
    """The first record that may be the header: those before it are titles, of one field that holds something."""
    width, start = split.width, 0
    for fields in split.records[:MOST_TITLES]:
        filled = sum(bool(text_of(field)) for field in fields)
        is_title = filled <= 1 and (len(fields) < width - 1 or (width > 2 and filled < width - 1))
        is_title |= (
            filled <= 1
            and width == 2
            and len(fields) == 1
            and not (split.lacks_a_name and not _has_names_below(split))
        )
        is_title |= 1 < len(fields) < width / 2  # a sentence with a mark in it
        if not is_title:
            break
        start += 1
    return start if start < len(split.records) else 0


def _has_names_below(split: Split) -> bool:
    """Whether the second record holds texts where those below it hold numbers or dates: the first one is a title."""
    _, columns = _kind_columns(split.records[2:])
    second = [text_of(field) for field in split.records[1]]
    return len(columns) == len(second) and any(
        _holds_values(column) and text and not text_is_value(text) and not is_null(text)
        for column, text in zip(columns, second, strict=True)
    )


def _with_header(sample: bytes, above: int, split: Split, settings: ReadSettings) -> ReadSettings:
    """The settings with what the first records say about the header."""
    found = settings
    at = 0
    if settings.header_row is None and not settings.header_absent:
        at = _first_row(split)
    rows = split.records[at:]
    if not rows:
        return found
    below = at > 0 or split.below_titles
    if below:
        line = sample.count(b"\n", 0, above + split.starts[at]) + 1
        found = replace(found, header_row=line)
    found = _padded(found, rows)
    if settings.header_absent or settings.header_row is not None or settings.header_rows > 1:
        return found
    if is_data(rows[0], rows[1:], split.width):
        skipped = sample.count(b"\n", 0, above + split.starts[at]) if below else 0
        return replace(found, header_absent=True, header_row=None, skip=found.skip + skipped)
    if _is_second_header(rows, split.width):
        return replace(found, header_rows=2)
    return found


def _padded(settings: ReadSettings, rows: Sequence[Sequence[bytes]]) -> ReadSettings:
    """The settings with short rows filled up, where they are many and no row is too long."""
    if "ragged" in settings.spans or settings.in_runs or settings.widths:
        return settings
    width = len(rows[0])
    short = sum(len(fields) < width for fields in rows)
    if short < FEW_ROWS or short <= MANY_SHORT * len(rows) or any(len(fields) > width for fields in rows):
        return settings
    return replace(settings, ragged="pad")


def _kind_columns(body: Sequence[Sequence[bytes]]) -> tuple[int, list[list[str]]]:
    """How many columns hold numbers or dates, and the texts of all columns."""
    width = max((len(fields) for fields in body), default=0)
    body = body[: max(LEAST_BODY, MOST_CELLS // max(width, 1))]
    columns = [[text_of(fields[i]) for fields in body if i < len(fields)] for i in range(width)]
    return sum(map(_holds_values, columns)), columns


def _holds_values(texts: Sequence[str]) -> bool:
    told = [text for text in texts if not is_null(text)]
    return bool(told) and sum(map(text_is_value, told)) >= MOSTLY * len(told)


def is_data(first: Sequence[bytes], body: Sequence[Sequence[bytes]], width: int) -> bool:
    """Whether the first record is a row like those below it, and no header."""
    if len(first) != width:
        return False
    if not body:
        return all(map(text_is_value, map(text_of, first)))
    names = [text_of(field) for field in first]
    _, columns = _kind_columns([fields for fields in body if len(fields) == width])
    if len(columns) != width:
        return False
    values = [i for i in range(width) if _holds_values(columns[i])]
    if values:
        told = [names[i] for i in values if not is_null(names[i])]
        if not told or not all(map(text_is_value, told)):
            return False
        others = [names[i] for i in range(width) if i not in values and not all(map(is_null, columns[i]))]
        return not _is_series(told, others, width)
    again = [i for i in range(width) if names[i] and names[i] in columns[i] and len(set(columns[i])) > 1]
    if width == 1:
        return len(body) > FEW_ROWS and columns[0].count(names[0]) > 1
    return len(body) > FEW_ROWS and len(again) > 1 and len(again) * 2 >= width


def _is_series(told: list[str], others: list[str], width: int) -> bool:
    """Whether numbers above numbers are names after all: years, or numbers that rise from column to column, beside a
    column with another name, or none."""
    try:
        numbers = [float(text) for text in told]
    except ValueError:
        return False
    pairs = list(pairwise(numbers))
    rising, falling = all(a < b for a, b in pairs), all(a > b for a, b in pairs)
    if len(told) < 2 or not (rising or falling):
        return False
    years = all(number in YEARS for number in numbers)
    even = len({round(b - a, 6) for a, b in pairs}) == 1
    enough = len(told) > 3 or years or (even and len(told) > 2)
    return len(told) < width and enough and not any(map(text_is_value, others))


def _is_second_header(rows: Sequence[Sequence[bytes]], width: int) -> bool:
    """Whether the second record goes on with the names: it has texts where the columns below hold numbers."""
    if len(rows) < 2 + FEW_ROWS or len(rows[0]) != width or len(rows[1]) != width:
        return False
    second = [text_of(field) for field in rows[1]]
    _, columns = _kind_columns([fields for fields in rows[2:] if len(fields) == width])
    if len(columns) != width:
        return False
    values = [i for i in range(width) if _holds_values(columns[i])]
    if len(values) < 2:
        return False
    if any(text_is_value(text) for text in second):
        return False
    said = [second[i] for i in values if second[i]]
    texts = [text for text in said if not is_null(text) and len(text) <= LONGEST_NAME]
    return len(texts) == len(said) and len(texts) >= max(2, 0.6 * len(values)) and len(set(texts)) > 1
