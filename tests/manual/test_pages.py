from __future__ import annotations

import re
from pathlib import Path

import pytest

from mangler.expressions.aggregates.registry import AGGREGATES
from mangler.language.mistake import Refusal
from mangler.manual.pages import find, overview, whole, words
from mangler.manual.topics import TOPICS
from mangler.steps import VERBS

ROOT = Path(__file__).parents[2]


def test_the_overview_names_every_verb_and_topic() -> None:
    page = overview()
    assert all(f"- `{name}`: " in page for name in [*VERBS.names(), *(topic.name for topic in TOPICS)])


@pytest.mark.parametrize("name", VERBS.names())
def test_every_verb_has_its_page(name: str) -> None:
    page = find(name)[0]
    declaration = VERBS.declaration(name)
    assert page.startswith(f"# {name}\n\n```\n{declaration.usage}\n```\n")
    assert all(f"- `{clause}`: {sentence}" in page for clause, sentence in declaration.clauses.items())
    assert page.count("\ntest\n") == len(declaration.examples)


def test_clauses_and_topics_are_found_too() -> None:
    assert [page.split("\n")[0] for page in find("anycase")] == [
        "# require only",
        "# require one row",
        "# replace",
        "# nullify",
        "# map",
        "# split",
        "# clean list",
        "# convert",
        "# sort",
        "# dedupe",
        "# group",
        "# lookup",
    ]
    assert [page.split("\n")[0] for page in find("keep")] == [
        "# keep characters",
        "# keep rows",
        "# keep first",
        "# keep last",
        "# keep columns",
    ]
    assert [page.split("\n")[0] for page in find("trim")] == ["# trim", "# trim(text)"]
    assert [page.split("(")[0].split("\n")[0] for page in find("join")] == ["# join", "# join"]
    assert find("sum")[0].startswith("# sum(x)\n") and "\ntest\n" in find("sum")[0]
    assert find("aggregates")[0].count("\n- ") == len(AGGREGATES)
    assert find("functions")[0].startswith("# functions\n")
    assert find("Exit  Codes")[0].startswith("# exit codes")
    assert all(find(word) for word in words())


def test_a_word_without_a_page_names_the_nearest() -> None:
    with pytest.raises(Refusal, match='no page for "sqeeze"') as refused:
        find("sqeeze")
    assert "Nearest: squeeze" in refused.value.mistakes[0].advice


def test_the_document_is_what_the_declarations_say() -> None:
    assert (ROOT / "docs" / "manual.md").read_text("utf-8") == whole()


def test_the_pieces_of_the_tutorial_are_the_sample_recipe() -> None:
    recipe = (ROOT / "src" / "mangler" / "sample" / "kiln-log.mangler").read_text("utf-8")
    page = (ROOT / "docs" / "recipe.md").read_text("utf-8")
    blocks = re.findall(r"^```\n(.*?)^```", page, re.DOTALL | re.MULTILINE)
    pieces = [block for block in blocks if not re.match(r"mangler [a-z]", block)]
    assert "\n".join(pieces) == recipe


@pytest.mark.parametrize(
    ("word", "page"),
    [
        ("substring", "# characters(text, from, to)"),
        ("order by", "# sort"),
        ("drop duplicates", "# dedupe"),
        ("avg", "# mean(x)"),
        ("ifnull", "# fill"),
        ("vlookup", "# lookup"),
        ("startswith", "# expressions"),
    ],
)
def test_words_from_elsewhere_lead_to_what_they_stand_for(word: str, page: str) -> None:
    assert page in [found.split("\n")[0] for found in find(word)]
