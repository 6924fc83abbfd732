"""`write`: what the output is like, where it is not to be as the extract."""

from __future__ import annotations

from mangler.language.declaration import Declaration
from mangler.language.mistake import Mistake
from mangler.language.statement import Statement
from mangler.steps.shared.checks import check_delimiter, check_encoding, codec_of
from mangler.table.settings import WriteSettings

DECLARATION = Declaration(
    name="write",
    usage="write [format (text|jsonl|json|parquet|arrow|arrows|workbook)]"
    " [compression (gzip|bzip2|xz|zstd|zip|snappy|lz4|brotli|none)] [delimiter TEXT] [quotes (sparing|always)]"
    " [nulls TEXT] [encoding TEXT] [line ends (lf|crlf)] [guard formulas]",
    meaning="Says how the cleaned table is to be written. The ending of the output's name says what is not said here,"
    " .parquet or .csv.gz; what that leaves open is as in the extract, in UTF-8. It stands once, anywhere in the"
    " recipe. A clause that means nothing for the output's format is passed over with a remark; beside format it is a"
    " mistake.",
    clauses={
        "format": "text (delimited), jsonl (one JSON object per line), json (an array of objects), parquet, arrow (an"
        " Arrow file), arrows (an Arrow stream) or workbook (.xlsx).",
        "compression": "gzip, bzip2, xz, zstd or zip pack a file of text or JSON as a whole. Inside of Parquet files"
        " zstd (the default), snappy, gzip, lz4, brotli or none; inside of Arrow files zstd, lz4 or none (the"
        " default).",
        "delimiter": "The text between fields, mostly one character. A comma where the extract's columns are aligned"
        " by spaces.",
        "quotes": "sparing (the default) quotes only cells that need it: those that hold the delimiter, a quote"
        " or a line break, and empty texts. always quotes every cell that is not null.",
        "nulls": "The word written for null, without quotes; nothing is written without it. A text that is the"
        " same word is quoted, so that the difference stays.",
        "encoding": "utf-8 (the default), utf-16, windows-1252, latin-1 or any that Python knows. A character that it"
        " lacks is a failure with its row.",
        "line ends": "lf or crlf.",
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
                "It stands without quotes, so it can hold neither.",
                nulls.span,
            )
        )
    return mistakes


def settings(statement: Statement | None) -> WriteSettings:
    """What a write statement says; None means a recipe without one."""
    if statement is None:
        return WriteSettings()
    delimiter, nulls = statement.text("delimiter"), statement.text("nulls")
    encoding = statement.text("encoding")
    return WriteSettings(
        format=statement.choice("format"),
        compression=statement.choice("compression"),
        guard_formulas=statement.has("guard formulas"),
        delimiter=delimiter.value if delimiter else None,
        quotes=statement.choice("quotes") or "sparing",
        nulls=nulls.value if nulls else "",
        encoding=codec_of(encoding.value) if encoding else None,
        line_end=statement.choice("line ends"),
        spans={clause: statement.span_of(clause) for clause in statement.values},
    )
