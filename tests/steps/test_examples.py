"""Every example of the reference does what it says."""

from __future__ import annotations

from pathlib import Path

import pytest

from mangler.engine.proof.proof import Outcome, prove
from mangler.engine.run.in_memory_run import run_in_memory
from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.expressions.aggregates.registry import AGGREGATES
from mangler.language.declaration import Example
from mangler.language.source import Source
from mangler.language.tables import read_small_table
from mangler.language.usage import Kind, Listed, Options, Part, Word, leading_words, parse_usage
from mangler.sample.generate import write_sample
from mangler.steps import VERBS

EXAMPLES = [(name, example) for name in VERBS.names() for example in VERBS.declaration(name).examples]
EXAMPLES += [("group", example) for aggregate in AGGREGATES.values() for example in aggregate.examples]


@pytest.mark.parametrize(("verb", "example"), EXAMPLES, ids=[example.statement for _, example in EXAMPLES])
def test_example(verb: str, example: Example, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """As a test under the statement; beyond a test's rules all columns must be shown."""
    write_sample(tmp_path, 1)
    monkeypatch.chdir(tmp_path)
    after = read_small_table(Source("after", example.after), is_result=True)
    tables = f"{example.before}\nbecomes\n{example.after}".replace("\n", "\n  ")
    recipe = LinkedRecipe.parse(f"mangler 1\n{example.statement}\ntest\n  {tables}")
    (verdict,) = prove(recipe.parsed)
    assert verdict.outcome is Outcome.PASSED, (verdict.names, verdict.rows, verdict.asides, verdict.problems)
    before = read_small_table(Source("before", example.before))
    assert run_in_memory(recipe.parsed.statements, before).names == after.names
    assert example.statement.startswith(verb)


@pytest.mark.parametrize("name", VERBS.names())
def test_every_verb_says_all_about_itself(name: str) -> None:
    declaration = VERBS.declaration(name)
    assert declaration.name == name and declaration.meaning.endswith(".")
    clauses = {
        " ".join(leading_words(choice))
        for option in parse_usage(name, declaration.usage).clauses
        for choice in option.choices
    } - {"", "where"}
    said = set(declaration.clauses)
    assert clauses <= said, f"not reported: {clauses - said}"
    inner: set[str] = set()

    def look(part: Part) -> None:
        parts = part.item.parts if isinstance(part, Listed) else ()
        if isinstance(part, Kind):
            inner.add(part.name)
        if isinstance(part, Options):
            inner.update(" ".join(leading_words(choice)) for choice in part.choices)
            parts = tuple(inner_part for choice in part.choices for inner_part in choice.parts)
        for inner_part in parts:
            look(inner_part)

    usage = parse_usage(name, declaration.usage)
    for part in (*usage.fixed, *usage.clauses):
        look(part)
        inner.update([part.text] if isinstance(part, Word) else [])
    assert said <= clauses | inner | {"where"}
    assert all(sentence.endswith(".") for sentence in declaration.clauses.values())
    assert declaration.examples or not declaration.is_step or name == "require columns"
