from __future__ import annotations

from pathlib import Path

import pytest

from mangler.language.columns import ColumnFamily, EveryColumn, NamedColumn
from mangler.language.mistake import ExitCode, Refusal
from mangler.language.recipe import ParsedRecipe, load_source, parse_recipe
from mangler.language.source import Source
from mangler.language.statement import Statement
from mangler.steps import VERBS

FIRST = 'mangler 1 "t"\n'


def parse(text: str) -> ParsedRecipe:
    return parse_recipe(Source("recipe", FIRST + text), VERBS)


def one(text: str) -> Statement:
    return parse(text).statements[1]


def mistakes_of(text: str) -> list[tuple[int, int, str]]:
    with pytest.raises(Refusal) as refused:
        parse(text)
    assert refused.value.code is ExitCode.WRONG_FOR_ANY_EXTRACT
    assert all(mistake.advice for mistake in refused.value.mistakes)
    return [(m.span.line - 1, m.span.column, m.message) for m in refused.value.mistakes if m.span]


def test_statements_go_on_over_indented_and_blank_lines() -> None:
    recipe = parse("trim\n  kiln,\n\n  studio\n\n\tsqueeze\nnullify '-' in kiln\n")
    assert [statement.verb for statement in recipe.statements] == ["mangler", "trim", "nullify"]
    assert recipe.statements[1].has("squeeze")


def test_comments_inside_a_statement_are_indented() -> None:
    statement = one("trim  # outer blanks\n  kiln # and\n  # more\n  squeeze")
    assert statement.has("squeeze")
    assert [c.text for stretch in statement.stretches for c in stretch.comments] == [
        "# outer blanks",
        "# and",
        "# more",
    ]


def test_a_comment_in_the_first_column_ends_the_statement() -> None:
    assert mistakes_of("trim kiln\n# stop\n  squeeze") == [
        (3, 3, "this indented line belongs to no statement")
    ]


def test_a_switched_off_statement_is_a_comment() -> None:
    assert len(parse("# trim kiln\n#   squeeze\ntrim kiln").statements) == 2


def test_a_hash_inside_texts_patterns_and_brackets_is_no_comment() -> None:
    statement = one("replace '#' with \"#\", /#/ with '' in [Kiln #] # comment")
    assert [pair["with"].value for pair in statement.values["matcher"]] == ["#", ""]
    assert statement.columns("in").included[0].name.value == "Kiln #"  # type: ignore[union-attr]


def test_clauses_are_in_any_order_each_once() -> None:
    one_way = one('read nulls "", "-" skip 2 delimiter ";"')
    other = one('read delimiter ";" skip 2 nulls "", "-"')
    assert one_way == other
    assert one('nullify "-" anycase in kiln') == one('nullify "-" in kiln anycase')
    assert mistakes_of("trim kiln squeeze squeeze")[0][2] == "squeeze is said twice"
    assert "exclude" in mistakes_of("trim kiln left right")[0][2]
    assert "said twice" in mistakes_of('read delimiter ";" delimiter ","')[0][2]


@pytest.mark.parametrize(
    "word", ["left", "squeeze", "where", "in", "with", "trim", "columns", "except", "text"]
)
def test_words_of_the_language_are_column_names_too(word: str) -> None:
    included = one(f"trim {word} squeeze").columns().included
    assert isinstance(included[0], NamedColumn) and included[0].name.value == word
    assert one(f"keep columns a, {word}").columns().included[1].name.value == word  # type: ignore[union-attr]


def test_selectors() -> None:
    selector = one("trim *, text columns, kiln?, /_at$/ except notes, [Fired at] left").columns()
    assert isinstance(selector.included[0], EveryColumn)
    assert isinstance(selector.included[1], ColumnFamily)
    assert isinstance(selector.included[2], NamedColumn) and selector.included[2].optional
    assert [item.name.value for item in selector.excluded] == ["notes", "Fired at"]  # type: ignore[union-attr]


def test_a_comma_may_are_where_the_statement_ends() -> None:
    assert one("trim kiln, studio,\n") == one("trim kiln, studio")
    assert one('replace "a" with "b" in x,') == one('replace "a" with "b" in x')


def test_of_clauses_that_start_alike_the_longer_is_meant() -> None:
    statement = one("read skip last 2 skip 1 header row 3")
    assert (statement.number("skip"), statement.number("skip last"), statement.number("header row")) == (
        1,
        2,
        3,
    )


def test_exactly_is_reserved_after_require_columns() -> None:
    assert one("require columns exactly kiln").has("exactly")
    assert not one("require columns [exactly]").has("exactly")


def test_all_mistakes_are_reported_in_one_go_in_their_order() -> None:
    found = mistakes_of(
        'trim kiln sqeeze\nfill "x" with y\ntrim ok\nkeep kiln\nread delimiter ""\n  nulls oops'
    )
    assert [(line, column) for line, column, _ in found] == [(1, 11), (2, 6), (4, 1), (6, 9)]


@pytest.mark.parametrize(
    ("text", "message", "advice"),
    [
        ("Trim kiln", '"Trim" is not a verb', "written small: trim"),
        ("strip kiln", '"strip" is not a verb', "Write trim kiln squeeze"),
        ("trimm kiln", '"trimm" is not a verb', "Nearest: trim"),
        ("keep kiln, cone", "keep what?", "keep columns kiln, cone"),
        ("xyzzy kiln", '"xyzzy" is not a verb', "Verbs are mangler, read"),
        ('fill kiln, with "x"', "after a comma a word is the next item", "Take the comma before with out"),
        ("replace “a” with 'b' in x", "typographic", "straight quotes"),
        ('replace a with "b" in x', "a text or a pattern is expected", '"a"'),
        ("trim", "ends where a list of columns", "Usage: trim COLUMNS"),
        ("trim kiln cone", '"cone" is not a clause', "a comma is missing"),
        ("trim kiln, squeze lines", '"lines" is not a clause', "meant for squeeze, take the comma"),
        ("fill kiln with null", "filled with null", "unknown"),
        ("nullify /(/ in x", "cannot be read", "backslash"),
        ("replace /a*/ with 'b' in x", "empty text", "+"),
        ("replace /(a)/ with '\\2' in x", "one group", "round brackets"),
        ('replace "" with "b" in x', "empty text is everywhere", "whole"),
        ('replace first "a" with "b" in x whole', "exclude", "leave one"),
        ("reorder columns *, a, *", r"\* is allowed once", "Leave one"),
        ("require columns *", "by their names", "names"),
        ('read delimiter ""', "is empty", "Write delimiter"),
        ('read delimiter "::" in runs', "one character", "Write delimiter"),
        ("read widths 8, 0", "one character wide", "Leave out"),
        ('read widths 8, 3 delimiter ","', "no delimiter", "Say widths or"),
        ("read header rows 0", "at least one line", "header absent"),
        ("read header absent header rows 2", "has no rows", "Say header absent or"),
        ('read quote "é"', "ASCII", "One character"),
        ("read delimiter '\"'", "holds the quote", "another"),
        ("read header row 0", "counted from 1", "header absent"),
        ("read called a, b, a", '"a" is called twice', "own"),
        ("read skip 1.5", "whole number", "without a point"),
        ('write nulls "a""', "found a text", 'a quote inside "…" is written'),
        ("write nulls 'a\"'", "holds a quote", "neither"),
        ("read ragged maybe", "aside or stop or pad", "Usage"),
        ("trim kiln where cone == '06'", "== is not an operator", "one ="),
        ('read delimiter ";"\nread skip 1', "is allowed once", "one statement"),
        ('mangler 1 "again"', "is allowed once", "one statement"),
    ],
)
def test_messages_meet_the_mistake(text: str, message: str, advice: str) -> None:
    with pytest.raises(Refusal, match=message) as refused:
        parse(text)
    assert any(advice in mistake.advice for mistake in refused.value.mistakes)


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("", "no statements"),
        ("# only a comment\n", "no statements"),
        ("trim kiln", "starts with its language version"),
        ('mangler 2 "t"', "version 2"),
        ("mangler", "ends where a whole number"),
        ("  mangler 1", "belongs to no statement"),
    ],
)
def test_a_recipe_starts_with_its_version(text: str, message: str) -> None:
    with pytest.raises(Refusal, match=message):
        parse_recipe(Source("recipe", text), VERBS)


def test_positions_count_characters_after_crlf_and_bom() -> None:
    source = Source("r", "\ufeffmangler 1\r\ntrim ä, pottr sqeeze\r\n")
    with pytest.raises(Refusal, match=r"line 2, column 15"):
        parse_recipe(source, VERBS)


def test_recipe_files_that_cannot_be_read(tmp_path: Path) -> None:
    bad = tmp_path / "bad.mangler"
    bad.write_bytes(b"mangler 1\ntrim \xff\n")
    for path, message in (
        (bad, "line 2 holds the byte 0xff"),
        (tmp_path, "directory"),
        (tmp_path / "no", "no such"),
    ):
        with pytest.raises(Refusal, match=message) as refused:
            load_source(path)
        assert refused.value.code is ExitCode.FILE_TROUBLE
