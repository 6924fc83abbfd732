from __future__ import annotations

import pytest

from mangler.language.columns import read_columns
from mangler.language.cursor import Cursor
from mangler.language.mistake import ExitCode, Refusal
from mangler.language.source import Source
from mangler.steps.shared.columnwise import matching_names
from mangler.table.schema import Column, Schema, ValueType
from mangler.table.select import quote_name, select

SCHEMA = Schema(
    (
        Column("kiln"),
        Column("pieces", ValueType.INTEGER),
        Column("fired_at", ValueType.TIMESTAMP),
        Column("volume", ValueType.DECIMAL),
        Column("notes"),
    ),
    gone=(("cone", 7),),
)


def chosen(text: str, types: frozenset[ValueType] | None = None) -> tuple[list[str], list[str]]:
    selector = read_columns(Cursor(Source("r", text), 0, len(text)))
    selection = select(selector, SCHEMA, "trim", matching_names, types)
    return [SCHEMA.names[index] for index in selection.indices], list(selection.passed_over)


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("notes, kiln", ["kiln", "notes"]),
        ("numeric columns", ["pieces", "volume"]),
        ("date columns, text columns", ["kiln", "fired_at", "notes"]),
        ("* except numeric columns, notes", ["kiln", "fired_at"]),
        ("/^[kv]/", ["kiln", "volume"]),
        ("gone?, kiln", ["kiln"]),
    ],
)
def test_the_order_is_the_extracts(text: str, expected: list[str]) -> None:
    assert chosen(text) == (expected, [])


def test_columns_of_other_types_are_skipped_unless_they_are_named() -> None:
    only_text = frozenset({ValueType.TEXT})
    assert chosen("*", only_text) == (["kiln", "notes"], ["pieces", "fired_at", "volume"])
    with pytest.raises(Refusal, match='trim cannot work on "pieces", which is integer') as refused:
        chosen("kiln, pieces", only_text)
    assert refused.value.code is ExitCode.WRONG_FOR_ANY_EXTRACT


def test_missing_columns_in_except_are_missing_too() -> None:
    with pytest.raises(Refusal, match='the column "cone" is gone since line 7'):
        chosen("* except cone")
    with pytest.raises(Refusal) as refused:
        chosen("kilm, cone")
    assert refused.value.code is ExitCode.ANSWER_IS_NO and len(refused.value.mistakes) == 2


@pytest.mark.parametrize(
    ("name", "spelled"),
    [
        ("kiln", "kiln"),
        ("Fired at?", "[Fired at?]"),
        ("a]b", "[a]]b]"),
        ("a\nb", '["a\\nb"]'),
        ("2nd", "[2nd]"),
        ('"q', '["\\"q"]'),
    ],
)
def test_names_are_spelled_as_a_recipe_has_them(name: str, spelled: str) -> None:
    assert quote_name(name) == spelled
