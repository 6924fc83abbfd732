"""What is said when a database does not do what it was asked for. Passwords are in none of it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from mangler.addresses import scrubbed
from mangler.language.mistake import (
    Refusal,
    enumerate_names,
    extract_does_not_fit,
    file_trouble,
    nearest,
    wrong_recipe,
)
from mangler.language.source import SourceSpan

MOST_NAMED = 8


def one_line(error: BaseException) -> str:
    """What a driver says, in one line."""
    return scrubbed("; ".join(line.strip() for line in str(error).splitlines() if line.strip()))


def not_reached(name: str, error: BaseException | str, advice: str = "") -> Refusal:
    told = scrubbed(error) if isinstance(error, str) else one_line(error)
    return file_trouble("database-not-reached", f"{name} cannot be reached: {told}", advice)


def read_fails(name: str, error: BaseException) -> Refusal:
    return file_trouble("database-fails", f"{name} cannot be read to its end: {one_line(error)}")


def write_fails(name: str, error: BaseException | str, advice: str = "") -> Refusal:
    told = scrubbed(error) if isinstance(error, str) else one_line(error)
    return file_trouble(
        "table-not-written", f"{name} is not written: {told}", advice or "The table is as it was."
    )


def no_such_table(name: str, table: str, tables: Sequence[str], span: SourceSpan | None = None) -> Refusal:
    """The table is not there."""
    close = nearest(table, tables)
    holds = f"It has {enumerate_names(tables, MOST_NAMED)}." if tables else "It has no tables."
    return extract_does_not_fit(
        "no-such-table",
        f'{name} has no table "{table}"',
        f"Nearest: {close[0]}." if close else holds,
        span,
    )


def query_refused(name: str, error: BaseException, span: SourceSpan | None = None) -> Refusal:
    return extract_does_not_fit(
        "query-refused",
        f"{name} does not take the query: {one_line(error)}",
        "A query is one statement that reads. Values come as :name from parameters of the recipe.",
        span,
    )


def no_place(name: str, column: str, kind: str, where: str, advice: str) -> Refusal:
    """A column whose values the table cannot hold as they are."""
    return wrong_recipe(
        "type-not-written", f'the column "{column}" is {kind}, and {name} {where}', scrubbed(advice)
    )


def no_such_column(name: str, column: str, columns: Iterable[str]) -> Refusal:
    """A table that is there has no place for a column."""
    close = nearest(column, columns)
    told = f"Nearest: {close[0]}. " if close else ""
    return no_place(
        name,
        column,
        "new",
        "has no column of this name",
        f"{told}Drop or rename it before, or add it to the table.",
    )
