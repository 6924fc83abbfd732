"""Reads the files that steps name, before they are bound: a step opens none itself."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import replace
from functools import lru_cache
from pathlib import Path
from time import time_ns

import numpy as np
import pyarrow as pa

from mangler.addresses import beside, is_database, is_elsewhere, is_remote, without_password
from mangler.formats.contract import Partition, ReadRequest
from mangler.formats.reading import read_partitions
from mangler.formats.registry import open_source
from mangler.language.literals import Text
from mangler.language.mistake import Refusal, file_trouble, wrong_recipe
from mangler.language.source import SourceSpan
from mangler.language.statement import Statement
from mangler.steps import VERBS
from mangler.table.batch import RowNumbers
from mangler.table.reference import Reference
from mangler.table.settings import ReadSettings
from mangler.table.stored_types import empty_columns
from mangler.table.tally import MOST_EXAMPLES

KEPT = 4
"""Files that are kept, for the next extract and for another step."""


def with_reference(statement: Statement) -> Statement:
    """A statement that names a file, with what that file holds as the value `reference`."""
    text = statement.get(VERBS.declaration(statement.verb).reads_file, Text)
    assert text is not None
    own = statement.values.get("nulls")
    nulls = tuple(word.value for word in own) if own is not None else statement.null_words
    return replace(statement, values={**statement.values, "reference": _reference(statement, text, nulls)})


def _reference(statement: Statement, text: Text, nulls: tuple[str, ...]) -> Reference:
    """What the file holds that a statement names, relative to the recipe."""
    path = Path(statement.span.source.name).parent / text.value
    if is_elsewhere(text.value):
        return _of_address(text, Path(statement.span.source.name).parent, nulls)
    try:
        seen = path.stat()
        stamp = (seen.st_mtime_ns, seen.st_size)
    except OSError:
        stamp = (0, 0)  # opening it tells why
    try:
        # By itself - would be standard input, which no recipe names.
        return replace(_read(str(path) if str(path) != "-" else "./-", stamp, nulls), name=text.value)
    except Refusal as refusal:
        raise _at(refusal, text.span) from None


def _of_address(text: Text, folder: Path, nulls: tuple[str, ...]) -> Reference:
    """What a table of a database holds, or a file elsewhere; a file of a database is found beside the recipe."""
    address = without_password(text.value)
    if address != text.value:
        raise wrong_recipe(
            "secret-in-the-clear",
            f"{address} is named with a password in the recipe, which everybody sees who has the recipe",
            "Take it out: PGPASSWORD or a password file gives it."
            if is_database(address)
            else "Take it out: environment variables, ~/.netrc or ~/.ssh say who you are.",
        )
    try:
        if is_remote(address):
            from mangler.formats.remote.listing import version_of

            return replace(_read(address, version_of(address) or time_ns(), nulls), name=text.value)
        # A table has no date by which it is known not to have changed.
        return replace(_read(beside(address, folder), time_ns(), nulls), name=text.value)
    except Refusal as refusal:
        raise _at(refusal, text.span) from None


@lru_cache(KEPT)
def _read(path: str, stamp: Hashable, nulls: tuple[str, ...]) -> Reference:  # noqa: ARG001
    """Reads a file once, as long as it does not change."""
    source = open_source(path, ReadRequest(ReadSettings(nulls=nulls, names_completed=True)))
    try:
        batches, lines = [], []
        unfit: list[str] = []
        unfit_count = 0
        for partition, parsed in read_partitions(source, lambda one: (one, source.read(one))):
            unfit_count += len(parsed.unfit)
            for row in parsed.unfit_rows(most=MOST_EXAMPLES - len(unfit)):
                unfit.append(f"line {_lines(partition, np.array([row.row]))[0]}: {row.reason}")
            batches.append(parsed.batch.columns)
            lines.append(_lines(partition, parsed.batch.rows))
        schema = source.schema
        columns = [
            pa.concat_arrays([nothing, *(batch[index] for batch in batches)])
            for index, nothing in enumerate(empty_columns(schema))
        ]
        every_line = np.concatenate([np.empty(0, np.int64), *lines])
        return Reference(source.name, schema, tuple(columns), every_line, tuple(unfit), unfit_count)
    except pa.ArrowInvalid:
        raise file_trouble(
            "file-too-large",
            f"{source.name} has a column of more than 2 GB, and a file to look into is kept in memory",
            "Write a smaller one, with the columns and rows that are needed.",
        ) from None
    finally:
        source.close()


def _lines(partition: Partition, rows: RowNumbers) -> RowNumbers:
    """The lines of rows; their numbers where the format has no lines."""
    lines = partition.locate(rows)
    return rows if lines is None else lines


def _at(refusal: Refusal, span: SourceSpan) -> Refusal:
    """The same trouble, with the place that names the file."""
    return Refusal(
        [replace(mistake, span=mistake.span or span) for mistake in refusal.mistakes], refusal.code
    )
