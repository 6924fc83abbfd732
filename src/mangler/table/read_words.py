"""Settings of reading as the read statement that says them."""

from __future__ import annotations

from mangler.language.spelling import spell_text
from mangler.table.select import quote_name
from mangler.table.settings import ReadSettings

MOST_NAMED = 40
"""With more columns than these, names are completed by their rule instead of given one by one."""


def read_statement(settings: ReadSettings) -> str:
    """`read delimiter ";" header row 3`; empty by default."""
    clauses = _clauses(settings)
    return f"read {' '.join(clauses)}" if clauses else ""


def _clauses(settings: ReadSettings) -> list[str]:
    plain = ReadSettings()
    said: list[str] = []
    said += _of_file(settings)
    if settings.delimiter is not None and not settings.widths:
        said.append(f"delimiter {spell_text(settings.delimiter)}{' in runs' * settings.in_runs}")
    if settings.widths:
        said.append(f"widths {', '.join(map(str, settings.widths))}")
    if settings.quote != plain.quote:
        said.append(f"quote {spell_text(settings.quote)}")
    if settings.encoding is not None:
        said.append(f"encoding {spell_text(settings.encoding)}")
    if settings.header_absent:
        said.append("header absent")
    elif settings.header_row is not None:
        said.append(f"header row {settings.header_row}")
    if settings.header_rows > 1:
        said.append(f"header rows {settings.header_rows}")
    if settings.called is not None:
        said.append(f"called {', '.join(map(quote_name, settings.called))}")
    elif settings.names_completed:
        said.append("names completed")
    said += [f"skip {settings.skip}"] * bool(settings.skip)
    said += [f"skip last {settings.skip_last}"] * bool(settings.skip_last)
    if settings.escape:
        said.append(f"escape {spell_text(settings.escape)}")
    if settings.nulls:
        said.append(f"nulls {', '.join(map(spell_text, settings.nulls))}")
    if settings.comment:
        said.append(f"comment {spell_text(settings.comment)}")
    if settings.ragged != plain.ragged:
        said.append(f"ragged {settings.ragged}")
    said += ["guard formulas"] * settings.guard_formulas
    return said


def _of_file(settings: ReadSettings) -> list[str]:
    """What is said of the format, of sheets and of tables."""
    said = [] if settings.format is None else [f"format {settings.format}"]
    if settings.sheet is not None:
        sheet = settings.sheet
        said.append(f"sheet {spell_text(sheet) if isinstance(sheet, str) else sheet}")
    if settings.table is not None:
        said.append(f"table {spell_text(settings.table)}")
    if settings.query is not None:
        said.append(f"query {spell_text(settings.query)}")
    return said + ["merged repeat"] * settings.merged_repeat
