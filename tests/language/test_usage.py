from __future__ import annotations

import pytest

from mangler.language.usage import Kind, Listed, Options, Word, brief_usage, leading_words, parse_usage
from mangler.steps import VERBS


def test_a_usage_line_falls_into_fixed_parts_and_clauses() -> None:
    usage = parse_usage("trim", "trim COLUMNS [left|right] [squeeze [lines]] [where CONDITION]")
    assert usage.fixed == (Kind("COLUMNS"),)
    assert [leading_words(choice) for clause in usage.clauses for choice in clause.choices] == [
        ("left",),
        ("right",),
        ("squeeze",),
        ("where",),
    ]
    assert usage.clause_words() == ["left", "right", "squeeze", "where"]
    assert usage.all_words() == {"left", "right", "squeeze", "lines", "where"}


def test_brackets_in_the_midst_keep_their_place() -> None:
    usage = parse_usage("replace", "replace [first|last] {MATCHER with TEXT}, … in COLUMNS [whole]")
    first, listed, word, kind = usage.fixed
    assert isinstance(first, Options) and not first.required
    assert isinstance(listed, Listed) and [type(part) for part in listed.item.parts] == [Kind, Word, Kind]
    assert (word, kind) == (Word("in"), Kind("COLUMNS"))
    assert len(usage.clauses) == 1


def test_verbs_of_several_words() -> None:
    usage = parse_usage("keep columns", "keep columns COLUMNS")
    assert usage.verb == ("keep", "columns") and usage.fixed == (Kind("COLUMNS"),)


@pytest.mark.parametrize("line", ["trim [left", "trim (left", "trim COLUMNS ]", "trim 12", "keep COLUMNS"])
def test_a_usage_line_that_is_wrong_is_a_programmers_error(line: str) -> None:
    with pytest.raises(ValueError, match="usage line"):
        parse_usage("trim", line)


def test_a_message_shows_what_must_be_there_and_the_clause_in_question() -> None:
    short = "trim COLUMNS [left|right]"
    assert brief_usage(parse_usage("trim", short)) == short
    usage = parse_usage("convert", VERBS.declaration("convert").usage)
    assert brief_usage(usage) == "convert COLUMNS to TYPE …"
    assert brief_usage(usage, ["written"]) == "convert COLUMNS to TYPE [written serial|written TEXTS] …"
    for name in VERBS.names():
        usage = parse_usage(name, VERBS.declaration(name).usage)
        for word in usage.clause_words():
            shown = brief_usage(usage, [word])
            assert (
                shown.startswith(name)
                and word in shown.split("[", 1)[-1]
                and shown.count("[") == shown.count("]")
            )
