"""Reads the files that steps name, before they are bound: a step opens none itself."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from mangler.formats.delimited.extract import Extract, open_extract
from mangler.language.literals import Text
from mangler.language.mistake import ExitCode, Mistake, Refusal
from mangler.language.source import Place
from mangler.language.statement import Statement
from mangler.steps.map import as_compared
from mangler.table.schema import Schema
from mangler.table.select import missing_column
from mangler.table.settings import ReadSettings

MOST_PAIRS = 1_000_000


def with_reference(statement: Statement) -> Statement:
    """A statement of map with what its file holds."""
    text = statement.get("from", Text)
    assert text is not None
    path = Path(statement.place.source.name).parent / text.value
    try:
        extract = open_extract(str(path), ReadSettings())
    except Refusal as refusal:
        raise _at(refusal, text.place) from None
    try:
        pairs = _pairs(extract, statement, text.place)
    finally:
        extract.close()
    return replace(statement, values={**statement.values, "pairs": pairs})


def _pairs(extract: Extract, statement: Statement, place: Place) -> tuple[tuple[str, str | None], ...]:
    """Keys and values in the order of the file. A key twice, or a row without a place, is refused with its lines."""
    named = statement.names("names")
    schema = Schema.of_text(extract.names)
    if named:
        missing = [missing_column(name, schema)[0] for name in named if name.value not in schema.names]
        if missing:
            told = [
                replace(m, message=m.message.replace("the extract", extract.name), missing=())
                for m in missing
            ]
            raise Refusal(told, ExitCode.WRONG_FOR_ANY_EXTRACT)
        places = [schema.names.index(name.value) for name in named]
    elif len(extract.names) < 2:
        raise _refused(f"{extract.name} has one column, and map needs two", "Name another file.", place)
    else:
        places = [0, 1]
    pairs: list[tuple[str, str | None]] = []
    lines: dict[str, int] = {}
    for block in extract.blocks():
        parsed = extract.parser.parse(block)
        for unfit in parsed.unfit:
            line = block.line_of(unfit.row)
            raise _refused(
                f"{extract.name}, line {line}: {unfit.reason}", "Mend this row of the table.", place
            )
        keys, values = (parsed.batch.columns[index] for index in places)
        compared = as_compared(keys, statement.has("anycase")).to_pylist()
        for row, key, bare, value in zip(
            parsed.batch.rows.tolist(), keys.to_pylist(), compared, values.to_pylist(), strict=True
        ):
            if key is None:
                continue  # null matches nothing
            line = block.line_of(row)
            if bare in lines:
                raise _refused(
                    f'{extract.name} has "{key}" twice, in lines {lines[bare]} and {line}',
                    "Take one of them out: which is meant cannot be told.",
                    place,
                )
            lines[bare] = line
            pairs.append((key, value))
        if len(pairs) > MOST_PAIRS:
            raise _refused(f"{extract.name} has more than {MOST_PAIRS:,} keys", "Take fewer.", place)
    return tuple(pairs)


def _refused(message: str, advice: str, place: Place) -> Refusal:
    return Refusal([Mistake(message, advice, place)], ExitCode.WRONG_FOR_ANY_EXTRACT)


def _at(refusal: Refusal, place: Place) -> Refusal:
    """The same trouble, with the place that names the file."""
    return Refusal(
        [replace(mistake, place=mistake.place or place) for mistake in refusal.mistakes], refusal.code
    )
