"""Options whose values are written in the recipe language: `--read`, `--columns`."""

from __future__ import annotations

from mangler.language.columns import ColumnSelector, read_columns
from mangler.language.cursor import Cursor
from mangler.language.kinds import READERS
from mangler.language.mistake import ExitCode, Refusal
from mangler.language.source import SourceSpan
from mangler.language.source_text import source_of
from mangler.language.statement import Statement
from mangler.language.statement_reader import read_statement
from mangler.steps import VERBS
from mangler.steps.shared.checks import check_patterns


def read_words(text: str) -> Statement:
    """The read statement that `--read 'delimiter ";"'` means; the word read itself may be there."""
    statement = text if text.split(maxsplit=1)[:1] == ["read"] else f"read {text}"
    source = source_of("--read", statement)
    read = read_statement(Cursor(source, 0, len(source.text)), VERBS)
    mistakes = VERBS.check(read)
    if mistakes:
        raise Refusal(mistakes, ExitCode.WRONG_FOR_ANY_EXTRACT)
    return read


def condition_text(text: str) -> Statement:
    """The condition that `--where 'cone = "06"'` means, as a statement that has it."""
    source = source_of("--where", text)
    cursor = Cursor(source, 0, len(text))
    from mangler.language.expression_reader import read_expression

    condition = read_expression(cursor)
    if not cursor.at_end():
        raise cursor.mistake(
            "unexpected-text",
            f"the condition ends here, found {cursor.found()}",
            "Conditions are joined with and, or.",
        )
    mistakes = check_patterns(condition)
    if mistakes:
        raise Refusal(mistakes, ExitCode.WRONG_FOR_ANY_EXTRACT)
    return Statement("look", {"where": condition}, SourceSpan(source, 0, len(text)))


def column_list(text: str) -> ColumnSelector:
    """The columns that `--columns 'kiln, studio'` means."""
    cursor = Cursor(source_of("--columns", text), 0, len(text))
    columns = read_columns(cursor)
    if not cursor.at_end():
        raise cursor.mistake(
            "unexpected-text",
            f"a comma or the end is expected here, found {cursor.found()}",
            "Write a list of columns: --columns 'kiln, studio' or --columns '* except notes'.",
        )
    return columns


def name_list(option: str, text: str) -> tuple[str, ...]:
    """The names that `--on 'kiln, fired_at'` means, each once."""
    cursor = Cursor(source_of(option, text), 0, len(text))
    names = tuple(dict.fromkeys(name.value for name in READERS["NAMES"](cursor)))
    if not cursor.at_end():
        raise cursor.mistake(
            "unexpected-text",
            f"a comma or the end is expected here, found {cursor.found()}",
            f"Write a list of columns: {option} 'kiln, fired_at'.",
        )
    return names
