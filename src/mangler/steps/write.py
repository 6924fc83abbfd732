"""`write`: what the output is like, where it is not to be as the extract."""

from __future__ import annotations

from mangler.language.declaration import Declaration
from mangler.language.mistake import Mistake
from mangler.language.statement import Statement
from mangler.steps.shared.checks import check_delimiter, check_encoding, codec_of
from mangler.table.settings import WriteSettings

DECLARATION = Declaration(
    name="write",
    usage="write [delimiter TEXT] [quotes (sparing|always)] [nulls TEXT] [encoding TEXT] [line ends (lf|crlf)]",
    meaning="Says how the cleaned table is to be written. What is not said is as in the extract, in UTF-8."
    " It stands once, anywhere in the recipe.",
    clauses={
        "delimiter": "The text between fields, mostly one character. A comma where the extract's columns are aligned"
        " by spaces.",
        "quotes": "sparing (the default) quotes only cells that need it: those that hold the delimiter, a quote"
        " or a line break, and empty texts. always quotes every cell that is not null.",
        "nulls": "The word written for null, without quotes; nothing is written without it. A text that is the"
        " same word is quoted, so that the difference stays.",
        "encoding": "utf-8 (the default), utf-16, windows-1252, latin-1 or any that Python knows. A character that it"
        " lacks is a failure with its row.",
        "line ends": "lf or crlf.",
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
        delimiter=delimiter.value if delimiter else None,
        quotes=statement.choice("quotes") or "sparing",
        nulls=nulls.value if nulls else "",
        encoding=codec_of(encoding.value) if encoding else None,
        line_end=statement.choice("line ends"),
        spans={clause: statement.span_of(clause) for clause in statement.values},
    )
