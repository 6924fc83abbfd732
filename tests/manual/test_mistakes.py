"""A page for every kind of mistake; its examples make that mistake, and what is put right makes none."""

from __future__ import annotations

import pytest

from mangler.engine.plan.plan import plan
from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.language.mistake import Refusal
from mangler.language.mistake_words import MISTAKE_WORDS
from mangler.manual.mistakes import KINDS
from mangler.manual.pages import find
from mangler.table.schema import Column, Schema, ValueType

TEXTS = ("kiln", "studio", "potter", "contacts", "glazes", "piece", "notes", "result", "2nd", "and")
NUMBERS = ("made", "peak_c", "price")
COLUMNS = Schema(
    (
        *(Column(name, ValueType.TEXT) for name in TEXTS),
        *(Column(name, ValueType.INTEGER) for name in NUMBERS),
        Column("fired_on", ValueType.DATE),
    )
)
WRONG = [
    (word, kind.wrong) for word, kind in KINDS.items() if kind.wrong and not kind.wrong.startswith("mangler")
]
RIGHT = [
    (word, kind.right) for word, kind in KINDS.items() if kind.right and not kind.right.startswith("mangler")
]
ON_ROWS = {"rows-fail"}
"""Mistakes that only rows make."""


def planned(text: str) -> None:
    recipe = LinkedRecipe.parse(f'mangler 1 "Kiln log"\n{text}\n')
    plan(recipe.parsed, COLUMNS)


def test_every_kind_of_mistake_has_a_page() -> None:
    assert set(KINDS) == MISTAKE_WORDS


@pytest.mark.parametrize(("word", "text"), [one for one in WRONG if one[0] not in ON_ROWS])
def test_the_example_makes_the_mistake(word: str, text: str) -> None:
    with pytest.raises(Refusal) as refused:
        planned(text)
    assert word in [mistake.word for mistake in refused.value.mistakes]


@pytest.mark.parametrize(("word", "text"), RIGHT)
def test_what_is_put_right_makes_no_mistake(word: str, text: str) -> None:  # noqa: ARG001
    planned(text)


@pytest.mark.parametrize("word", sorted(KINDS))
def test_the_page_says_all_that_is_known_of_the_mistake(word: str) -> None:
    page = find(word)[-1]
    kind = KINDS[word]
    assert kind.meaning and (kind.fix or kind.right)
    assert all(part in page for part in (word, kind.meaning, kind.wrong, kind.right, kind.fix))
