"""Why columns may be missing from an extract, or rows do not fit: it may have to be read in another way."""

from __future__ import annotations

from dataclasses import replace

from mangler.formats.contract import Explanation
from mangler.formats.delimited.delimiter_search import Delimiter, find_delimiter, split_at
from mangler.formats.delimited.dialect import name_of
from mangler.formats.delimited.survey import survey
from mangler.table.read_words import read_statement
from mangler.table.settings import ReadSettings


def explain(settings: ReadSettings, count: int, sample: bytes, complete: bool) -> Explanation | None:
    """The reason for another delimiter than that of the recipe, or for another place of the table.

    `count` is how many columns the extract has as it is read now; `sample` starts behind the skipped lines.
    """
    return _other_delimiter(settings, count, sample, complete) or _other_place(settings, sample, complete)


def _other_delimiter(settings: ReadSettings, count: int, sample: bytes, complete: bool) -> Explanation | None:
    if settings.delimiter is None or settings.header_row is not None:
        return None
    comment = settings.comment.encode()
    other = find_delimiter(sample, settings.quote, complete, comment)
    if other is None or other == Delimiter(settings.delimiter, settings.in_runs):
        return None
    width = len(split_at(sample, other, settings.quote, complete, comment).records[0])
    if width <= count:
        return None
    columns = "1 column" if count == 1 else f"{count} columns"
    return Explanation(
        f"the header of the extract has {columns} when it is split at {name_of(settings.delimiter)},"
        f" and {width} when it is split at {name_of(other.text, other.in_runs)}",
        "If the extract is to be read as it is, leave the delimiter out of read, and it is detected.",
        "delimiter",
        replace(settings, delimiter=None, in_runs=False),
    )


def _other_place(settings: ReadSettings, sample: bytes, complete: bool) -> Explanation | None:
    found = survey(sample, complete, settings)
    what, clause = _difference(settings, found)
    if not what and settings.delimiter is not None:
        free = survey(sample, complete, replace(settings, delimiter=None, in_runs=False))
        if free.delimiter is not None and free.delimiter != settings.delimiter:
            found, clause = free, "delimiter"
            what = f"its fields were divided at {name_of(free.delimiter, free.in_runs)}"
    if not what:
        return None
    return Explanation(f"the extract reads as if {what}", f"Write {read_statement(found)}", clause, found)


def _difference(said: ReadSettings, found: ReadSettings) -> tuple[str, str]:
    """What a survey found otherwise, in words, and the clause of `read` that says it."""
    if found.widths and not said.widths:
        return "its columns had a fixed width and no delimiter", "widths"
    if found.header_row != said.header_row:
        return f"its header were on line {found.header_row}", "header row"
    if found.header_absent and not said.header_absent:
        return "it had no header", "header absent"
    if found.comment and not said.comment:
        return f'lines that start with "{found.comment}" were comments', "comment"
    if found.header_rows != said.header_rows:
        return f"its names were on {found.header_rows} lines", "header rows"
    return "", ""
