"""How an extract spells its table: delimiter or widths, quote, line end, comments."""

from __future__ import annotations

from mangler.formats.delimited.records import Spelling, split_record
from mangler.late_dataclass import dataclass
from mangler.table.settings import ReadSettings

NAMES_OF_DELIMITERS = {"\t": "tab", " ": "space", "\x1f": "unit separator (1F)"}
NO_QUOTE = -1
NOWHERE = "\x1e"
"""Is the delimiter where there is none, and a comma would be text."""


@dataclass(frozen=True)
class Dialect:
    """`delimiter` is empty where columns have `widths`; `line_end` is LF or CRLF."""

    delimiter: str
    quote: str
    line_end: str
    byte_order_mark: bool
    escape: str = ""
    comment: str = ""
    in_runs: bool = False
    """Whether several delimiters in a row are one."""
    widths: tuple[int, ...] = ()
    """Of columns that are aligned by blanks."""

    @property
    def spelling(self) -> Spelling:
        return spelling_of(self.delimiter, self.quote, self.escape, self.comment)

    @property
    def written_delimiter(self) -> str:
        """The delimiter of what is written like this extract: one that can hold nulls and texts with spaces."""
        return "," if self.in_runs or self.widths or self.delimiter == NOWHERE else self.delimiter

    def fields(self, record: bytes) -> list[bytes]:
        """The fields of one record as they are spelled, quotes and all; without padding."""
        return fields_of(record, self.spelling, self.in_runs, self.widths)


def spelling_of(delimiter: str, quote: str, escape: str = "", comment: str = "") -> Spelling:
    """Without a delimiter there is no quote either: all that ends a record is its line."""
    mark = ord(quote) if delimiter else NO_QUOTE
    return Spelling(delimiter.encode() or b"\x1f", mark, escape.encode(), comment.encode())


def dialect_of(settings: ReadSettings, delimiter: str, mark: bool) -> Dialect:
    """The dialect that settings say, with a delimiter that is said or detected."""
    return Dialect(
        "" if settings.widths else delimiter,
        settings.quote,
        "\n",
        mark,
        settings.escape,
        settings.comment,
        settings.in_runs,
        settings.widths,
    )


def fields_of(
    record: bytes, spelling: Spelling, in_runs: bool = False, widths: tuple[int, ...] = ()
) -> list[bytes]:
    """The fields of one record; with `in_runs` only those that hold something, if only quotes."""
    if widths:
        return cut_by_widths(record, widths)
    fields = split_record(record, spelling)
    return [field for field in fields if field] if in_runs else fields


def cut_by_widths(record: bytes, widths: tuple[int, ...]) -> list[bytes]:
    """The fields of one line whose columns are so many characters wide; the last one takes the rest."""
    text, start, fields = record.decode("utf-8", errors="surrogateescape"), 0, []
    for width in widths[:-1]:
        fields.append(text[start : start + width])
        start += width
    fields.append(text[start:])
    return [field.strip(" ").encode("utf-8", errors="surrogateescape") for field in fields]


def name_of(delimiter: str, in_runs: bool = False) -> str:
    """A delimiter as a message shows it."""
    name = NAMES_OF_DELIMITERS.get(delimiter, f'"{delimiter}"')
    return f"runs of {name}s" if in_runs and delimiter == " " else f"{name}, in runs" if in_runs else name
