"""Every example of the reference does what it says."""

from __future__ import annotations

from pathlib import Path

import pytest

from mangler.engine.recipe import Recipe
from mangler.kernels.rendering import Layout, quote_text
from mangler.language.declaration import Example
from mangler.language.source import Source
from mangler.language.tables import read_small_table
from mangler.language.usage import Listed, Options, Part, leading_words, parse_usage
from mangler.steps import FRAME, VERBS

EXAMPLES = [(name, example) for name in VERBS.names() for example in VERBS.declaration(name).examples]


@pytest.mark.parametrize(("verb", "example"), EXAMPLES, ids=[example.statement for _, example in EXAMPLES])
def test_example(tmp_path: Path, verb: str, example: Example) -> None:
    before = read_small_table(Source("before", example.before))
    after = read_small_table(Source("after", example.after))
    layout = Layout(";")
    lines = [
        ";".join("" if cell is None else quote_text(cell, layout) for cell in row)
        for row in (before.names, *before.rows)
    ]
    extract = tmp_path / "extract.csv"
    extract.write_text("\n".join(lines) + "\n", "utf-8")
    table = Recipe.parse(f"mangler 1\nread delimiter ';'\n{example.statement}").run(extract).table
    assert tuple(table.column_names) == after.names
    assert [tuple(row.values()) for row in table.to_pylist()] == list(after.rows)
    assert example.statement.startswith(verb)


@pytest.mark.parametrize("name", VERBS.names())
def test_every_verb_tells_all_about_itself(name: str) -> None:
    declaration = VERBS.declaration(name)
    assert declaration.name == name and declaration.meaning.endswith(".")
    clauses = {
        " ".join(leading_words(choice))
        for option in parse_usage(name, declaration.usage).clauses
        for choice in option.choices
    } - {"", "where"}
    told = set(declaration.clauses)
    assert clauses <= told, f"not told: {clauses - told}"
    inner: set[str] = set()

    def look(part: Part) -> None:
        parts = part.item.parts if isinstance(part, Listed) else ()
        if isinstance(part, Options):
            inner.update(" ".join(leading_words(choice)) for choice in part.choices)
            parts = tuple(inner_part for choice in part.choices for inner_part in choice.parts)
        for inner_part in parts:
            look(inner_part)

    for part in parse_usage(name, declaration.usage).fixed:
        look(part)
    assert told <= clauses | inner
    assert all(sentence.endswith(".") for sentence in declaration.clauses.values())
    assert declaration.examples or name in (*FRAME, "require columns")
