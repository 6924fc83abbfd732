"""`read`: what the extract is like, where that is not to be detected."""

from __future__ import annotations

from mangler.language.declaration import Declaration
from mangler.language.mistake import Mistake
from mangler.language.statement import Statement
from mangler.steps.shared.checks import check_encoding, check_one_character, codec_of
from mangler.table.settings import ReadSettings

DECLARATION = Declaration(
    name="read",
    usage="read [delimiter TEXT] [quote TEXT] [encoding TEXT] [header row NUMBER|header absent]"
    " [called NAMES] [skip NUMBER] [skip last NUMBER] [escape TEXT] [nulls TEXTS] [comment TEXT]"
    " [ragged (aside|stop|pad)]",
    meaning="Says how the extract is to be read. What is not said is found out from the file and told in the"
    " summary. It stands once, anywhere in the recipe.",
    clauses={
        "delimiter": "The one character between fields; without it, the one that fits the first rows best.",
        "quote": 'The one character round fields that hold delimiters or line breaks; without it, ".',
        "encoding": "utf-8, utf-16, windows-1252, latin-1 or any that Python knows; without it, found out.",
        "header row": "The row that holds the columns' names, counted after the skipped lines; rows above it"
        " are passed over.",
        "header absent": "The file has no header: the columns are column_1, column_2, … or as called.",
        "called": "New names for all columns, in the file's order; the way out of a header with an empty name"
        " or the same name twice.",
        "skip": "How many lines at the top of the file are passed over.",
        "skip last": "How many rows at the end of the file are passed over, totals for example.",
        "escape": 'The character that takes any meaning from the one after it: escape "\\\\" for a backslash.',
        "nulls": "Words that stand for null in any column, matched as whole cells, white space around them"
        ' ignored. "" makes blank and empty fields null as well.',
        "comment": "Lines that start with this text are passed over.",
        "ragged": "What becomes of rows with too few or too many fields: aside (the default) sets them aside,"
        " pad fills up short ones with nulls and sets long ones aside, stop delivers nothing.",
    },
    is_step=False,
)


def check(statement: Statement) -> list[Mistake]:
    delimiter, quote = statement.text("delimiter"), statement.text("quote")
    mistakes = check_one_character(delimiter, "delimiter") + check_one_character(quote, "quote", True)
    mistakes += check_one_character(statement.text("escape"), "escape", True)
    comment = statement.text("comment")
    if comment and (not comment.value.strip() or "\n" in comment.value):
        mistakes.append(
            Mistake(
                "comment-mark",
                "a comment is known by a text at the start of its line",
                'Write comment "#".',
                comment.span,
            )
        )
    mistakes += check_encoding(statement.text("encoding"))
    if delimiter and delimiter.value == (quote.value if quote else '"'):
        mistakes.append(
            Mistake(
                "clauses-conflict",
                "delimiter and quote are the same character",
                "Give one of them another.",
                delimiter.span,
            )
        )
    row = statement.number("header row")
    if row == 0:
        mistakes.append(
            Mistake(
                "count-from-one",
                "rows are counted from 1",
                "For a file without a header write header absent.",
                statement.span_of("header row"),
            )
        )
    seen: set[str] = set()
    for name in statement.names("called") or ():
        if name.value in seen:
            mistakes.append(
                Mistake(
                    "said-twice",
                    f'"{name.value}" is called twice',
                    "Give every column a name of its own.",
                    name.span,
                )
            )
        seen.add(name.value)
    return mistakes


def settings(statement: Statement | None) -> ReadSettings:
    """What a read statement says; None means a recipe without one."""
    if statement is None:
        return ReadSettings()
    delimiter, quote = statement.text("delimiter"), statement.text("quote")
    escape, comment = statement.text("escape"), statement.text("comment")
    called, encoding = statement.names("called"), statement.text("encoding")
    return ReadSettings(
        delimiter=delimiter.value if delimiter else None,
        quote=quote.value if quote else '"',
        encoding=codec_of(encoding.value) if encoding else None,
        header_row=0 if statement.has("header absent") else statement.number("header row") or 1,
        called=tuple(name.value for name in called) if called is not None else None,
        skip=statement.number("skip") or 0,
        skip_last=statement.number("skip last") or 0,
        escape=escape.value if escape else "",
        comment=comment.value if comment else "",
        nulls=tuple(text.value for text in statement.values.get("nulls", ())),
        ragged=statement.choice("ragged") or "aside",
        line=statement.line,
        spans={clause: statement.span_of(clause) for clause in statement.values},
    )
