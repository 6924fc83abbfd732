"""Reads the files that steps name, before they are bound: a step opens none itself."""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache
from pathlib import Path

import numpy as np
import pyarrow as pa

from mangler.formats.delimited.extract import open_extract
from mangler.language.literals import Text
from mangler.language.mistake import ExitCode, Mistake, Refusal, file_trouble
from mangler.language.source import Place
from mangler.language.statement import Statement
from mangler.steps.map import as_compared
from mangler.table.reference import Reference
from mangler.table.schema import Schema
from mangler.table.settings import ReadSettings
from mangler.table.tally import MOST_EXAMPLES

MOST_PAIRS = 1_000_000
KEPT = 4
"""Files that are kept, for the next extract and for another step."""


def with_reference(statement: Statement) -> Statement:
    """A statement of map or lookup with what its file holds."""
    text = statement.get("from" if statement.verb == "map" else "text", Text)
    assert text is not None
    reference = _reference(statement, text)
    if statement.verb == "lookup":
        return replace(statement, values={**statement.values, "reference": reference})
    return replace(statement, values={**statement.values, "pairs": _pairs(reference, statement, text.place)})


def _reference(statement: Statement, text: Text) -> Reference:
    """What the file holds that a statement names, relative to the recipe."""
    path = Path(statement.place.source.name).parent / text.value
    try:
        seen = path.stat()
        stamp = (seen.st_mtime_ns, seen.st_size)
    except OSError:
        stamp = (0, 0)  # opening it tells why
    try:
        # By itself - would be standard input, which no recipe names.
        return replace(_read(str(path) if str(path) != "-" else "./-", stamp), name=text.value)
    except Refusal as refusal:
        raise _at(refusal, text.place) from None


@lru_cache(KEPT)
def _read(path: str, stamp: tuple[int, int]) -> Reference:  # noqa: ARG001
    """Reads a file once, as long as it does not change."""
    extract = open_extract(path, ReadSettings())
    try:
        batches, lines = [], []
        unfit: list[str] = []
        unfit_count = 0
        for block in extract.blocks():
            parsed = extract.parser.parse(block)
            unfit_count += len(parsed.unfit)
            for row in parsed.unfit_rows(most=MOST_EXAMPLES - len(unfit)):
                unfit.append(f"line {block.line_of(row.row)}: {row.reason}")
            batches.append(parsed.batch.columns)
            lines.append(block.lines_of(parsed.batch.rows))
        schema = Schema.of_text(extract.names)
        nothing = pa.array([], pa.string())
        columns = [
            pa.concat_arrays([nothing, *(batch[index] for batch in batches)])
            for index in range(len(extract.names))
        ]
        every_line = np.concatenate([np.empty(0, np.int64), *lines])
        return Reference(extract.name, schema, tuple(columns), every_line, tuple(unfit), unfit_count)
    except pa.ArrowInvalid:
        raise file_trouble(
            f"{extract.name} has a column of more than 2 GB, and a file to look into is kept in memory",
            "Write a smaller one, with the columns and rows that are needed.",
        ) from None
    finally:
        extract.close()


def _pairs(reference: Reference, statement: Statement, place: Place) -> tuple[tuple[str, str | None], ...]:
    """Keys and values in the order of the file. A key twice, or a row without a place, is refused with its lines."""
    named = statement.names("names") or ()
    reference.require(named)
    if not named and len(reference.columns) < 2:
        raise _refused(f"{reference.name} has one column, and map needs two", "Name another file.", place)
    if reference.unfit:
        raise _refused(f"{reference.name}, {reference.unfit[0]}", "Mend this row of the table.", place)
    if len(reference) > MOST_PAIRS:
        raise _refused(f"{reference.name} has more than {MOST_PAIRS:,} keys", "Take fewer.", place)
    keys, values = [reference.column(name.value) for name in named] or reference.columns[:2]
    compared = as_compared(keys, statement.has("anycase")).to_pylist()
    pairs: list[tuple[str, str | None]] = []
    lines: dict[str, int] = {}
    for line, key, bare, value in zip(
        reference.lines.tolist(), keys.to_pylist(), compared, values.to_pylist(), strict=True
    ):
        if key is None:
            continue  # null matches nothing
        if bare in lines:
            raise _refused(
                f'{reference.name} has "{key}" twice, in lines {lines[bare]} and {line}',
                "Take one of them out: which is meant cannot be told.",
                place,
            )
        lines[bare] = line
        pairs.append((key, value))
    return tuple(pairs)


def _refused(message: str, advice: str, place: Place) -> Refusal:
    return Refusal([Mistake(message, advice, place)], ExitCode.WRONG_FOR_ANY_EXTRACT)


def _at(refusal: Refusal, place: Place) -> Refusal:
    """The same trouble, with the place that names the file."""
    return Refusal(
        [replace(mistake, place=mistake.place or place) for mistake in refusal.mistakes], refusal.code
    )
