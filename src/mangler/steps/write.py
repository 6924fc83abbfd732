"""`write`: what the output is like, where it is not to be as the extract."""

from __future__ import annotations

from typing import Any

from mangler.language.declaration import Declaration
from mangler.language.expression import Column
from mangler.language.literals import Name, Template, Text
from mangler.language.mistake import Mistake
from mangler.language.statement import Statement
from mangler.steps.shared.checks import check_delimiter, check_encoding, codec_of
from mangler.table.settings import WriteSettings

DECLARATION = Declaration(
    name="write",
    usage="write [format (text|jsonl|json|parquet|arrow|arrows|workbook)]"
    " [compression (gzip|bzip2|xz|zstd|zip|snappy|lz4|brotli|none)] [delimiter TEXT] [quotes (sparing|always)]"
    " [widths NUMBERS] [nulls TEXT] [encoding TEXT] [line ends (lf|crlf)] [by NAMES] [named EXPR]"
    " [files of NUMBER rows] [guard formulas] [table TEXT [create|append|replace]]",
    meaning="Says how the cleaned table is to be written. The ending of the output's name says what is not said here,"
    " .parquet or .csv.gz; what that leaves open is as in the extract, in UTF-8. It is allowed once, anywhere in the"
    " recipe. A clause that means nothing for the output's format is ignored with a remark; beside format it is a"
    " mistake.",
    clauses={
        "format": "text (delimited), jsonl (one JSON object per line), json (an array of objects), parquet, arrow (an"
        " Arrow file), arrows (an Arrow stream) or workbook (.xlsx).",
        "compression": "gzip, bzip2, xz, zstd or zip pack a file of text or JSON as a whole. Inside of Parquet files"
        " zstd (the default), snappy, gzip, lz4, brotli or none; inside of Arrow files zstd, lz4 or none (the"
        " default).",
        "delimiter": "The text between fields, mostly one character. A comma where the extract's columns are aligned"
        " by spaces.",
        "widths": "How many characters wide each column is, without a delimiter: widths 8, 12, 3. Numbers are to the"
        " right, everything else to the left. A cell with more characters, or with a line break, is refused with its"
        " row.",
        "by": "One file per value of these columns, in a folder that has the output's name without its ending. The"
        " folder appears whole or not at all; the one of an earlier run is replaced. Null has a file null.",
        "named": 'The names of these files: by studio, fired_on named "{studio}-{fired_on}". Without it, the values'
        " with - between them. Characters that a file's name cannot have become -.",
        "files of": "Several files of so many rows each, in a folder that has the output's name without its ending:"
        " clean-0001.csv and so on, the last one with the rest. The folder appears whole or not at all.",
        "quotes": "sparing (the default) quotes only cells that need it: those that hold the delimiter, a quote"
        " or a line break, and empty texts. always quotes every cell that is not null.",
        "nulls": "The word written for null, without quotes; nothing is written without it. A text that is the"
        " same word is quoted, so that the difference stays.",
        "encoding": "utf-8 (the default), utf-16, windows-1252, latin-1 or any that Python knows. A character that it"
        " lacks is a failure with its row.",
        "line ends": "lf or crlf.",
        "table": "In a database, the table that is written. create (the default) makes it, and refuses one that is"
        " there; append puts the rows behind its own; replace puts them in the place of its own, and the table keeps"
        " its columns, keys and rights. All in one transaction: the table is as it was until the run has ended well.",
        "guard formulas": "Puts a ' in front of texts that a spreadsheet would run as a formula: those that start with"
        " = or @, with + or - before something other than a number, or with a tab or a line break. read guard formulas"
        " takes it off again.",
    },
    is_step=False,
)


def check(statement: Statement) -> list[Mistake]:
    mistakes = check_delimiter(statement.text("delimiter"))
    mistakes += check_encoding(statement.text("encoding"))
    nulls = statement.text("nulls")
    if nulls and any(mark in nulls.value for mark in '"\n\r\0'):
        mistakes.append(
            Mistake(
                "nulls-word",
                "the word for null holds a quote or a line break",
                "It is without quotes, so it can hold neither.",
                nulls.span,
            )
        )
    mistakes += _check_named(statement)
    mistakes += _check_files(statement)
    for clause in ("delimiter", "quotes"):
        if statement.has("widths") and statement.has(clause):
            mistakes.append(
                Mistake(
                    "clauses-conflict",
                    f"columns of a fixed width have no {clause}",
                    f"Say widths or {clause}.",
                    statement.span_of(clause),
                )
            )
    widths = statement.values.get("widths", ())
    mistakes += [
        Mistake(
            "count-from-one", "a column is at least one character wide", "Give another width.", width.span
        )
        for width in widths
        if int(width.value) == 0
    ]
    return mistakes


def _form_of(named: Any) -> tuple[tuple[str | Name, ...], list[Any]]:
    """The name of a file as plain stretches and columns, and what else is in it."""
    if named is None:
        return (), []
    if isinstance(named, Text):
        return (named.value,), []
    if not isinstance(named, Template):
        return (), [named]
    parts: list[str | Name] = []
    others = []
    for part in named.parts:
        if isinstance(part, str):
            parts.append(part)
        elif isinstance(part.expression, Column) and not part.optional:
            parts.append(Name(part.expression.name, part.expression.span))
        else:
            others.append(part.expression)
    return tuple(parts), others


def _check_named(statement: Statement) -> list[Mistake]:
    """The name of a file is a text, its holes are columns after `by`."""
    parts, others = _form_of(statement.values.get("named"))
    columns = {name.value for name in statement.names("by") or ()}
    if not statement.has("named"):
        return []
    if not columns:
        return [
            Mistake(
                "clause-needed",
                "named is about the files that by makes",
                'Write by studio named "{studio}", or leave named out.',
                statement.span_of("named"),
            )
        ]
    mistakes = [
        Mistake(
            "text-needed",
            "the name of a file is a text, with columns in its holes",
            f'Write named "{{{next(iter(columns))}}}"; make a column before for what is to be worked out.',
            other.span,
        )
        for other in others
    ]
    return mistakes + [
        Mistake(
            "unknown-column",
            f'named has a hole for "{part.value}", which is not among the columns after by',
            f"Write by {', '.join([*sorted(columns), part.value])}, or take the hole out.",
            part.span,
        )
        for part in parts
        if isinstance(part, Name) and part.value not in columns
    ]


def _check_files(statement: Statement) -> list[Mistake]:
    """Files of so many rows are named by number, and hold at least one."""
    mistakes = [
        Mistake(
            "clauses-conflict",
            f"files of so many rows are named by number, and {clause} names them by values",
            f"Say files of or {clause}.",
            statement.span_of(clause),
        )
        for clause in ("by", "named")
        if statement.has("files of") and statement.has(clause)
    ]
    if statement.has("files of") and not statement.number("files of"):
        mistakes.append(
            Mistake(
                "count-from-one",
                "a file has at least one row",
                "Give another number.",
                statement.span_of("files of"),
            )
        )
    return mistakes


def settings(statement: Statement | None) -> WriteSettings:
    """What a write statement says; None means a recipe without one."""
    if statement is None:
        return WriteSettings()
    delimiter, nulls = statement.text("delimiter"), statement.text("nulls")
    table = statement.text("table")
    encoding, named = statement.text("encoding"), statement.values.get("named")
    return WriteSettings(
        format=statement.choice("format"),
        compression=statement.choice("compression"),
        by=tuple(name.value for name in statement.names("by") or ()),
        named=tuple(part if isinstance(part, str) else (part.value,) for part in _form_of(named)[0]),
        table=table.value if table else None,
        table_rows=next((how for how in ("create", "append", "replace") if statement.has(how)), None),
        rows_per_file=statement.number("files of"),
        widths=tuple(int(width.value) for width in statement.values.get("widths", ())),
        guard_formulas=statement.has("guard formulas"),
        delimiter=delimiter.value if delimiter else None,
        quotes=statement.choice("quotes") or "sparing",
        nulls=nulls.value if nulls else "",
        encoding=codec_of(encoding.value) if encoding else None,
        line_end=statement.choice("line ends"),
        spans={clause: statement.span_of(clause) for clause in statement.values},
    )
