"""What is said of columns is what binding and running make of them."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mangler.engine.plan.plan import bind_steps
from mangler.engine.run.in_memory_run import run_in_memory
from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.insight.explanation.effects import columns_read, effect_of
from mangler.insight.explanation.explanation import explain
from mangler.insight.explanation.fates import fate_of
from mangler.language.recipe import ParsedRecipe
from mangler.language.source import Source
from mangler.language.tables import read_small_table
from mangler.sample.generate import write_sample
from mangler.steps import VERBS
from mangler.table.schema import Column, Schema, ValueType
from mangler.table.small import schema_of

EXAMPLES = [
    (example.statement, example.before, example.after)
    for name in VERBS.names()
    if VERBS.is_step(name)
    for example in VERBS.declaration(name).examples
]


def parsed(steps: str) -> ParsedRecipe:
    return LinkedRecipe.parse(f"mangler 1\n{steps}").parsed


@pytest.mark.parametrize(("statement", "before", "after"), EXAMPLES, ids=[one[0] for one in EXAMPLES])
def test_an_effect_is_what_a_run_does(
    statement: str, before: str, after: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Columns that come and go are those of the run; a column that is said to pass has the cells that it had."""
    write_sample(tmp_path, 1)
    monkeypatch.chdir(tmp_path)
    recipe = parsed(statement)
    table = read_small_table(Source("before", before))
    schema = schema_of(table)
    known = read_small_table(Source("after", after), is_result=True)
    at = schema
    for one in recipe.statements[1:]:
        effect = effect_of(one, at, True)
        bound = bind_steps([one], at)
        assert not bound.mistakes
        step = bound.steps[0].step
        if step.is_open:
            assert effect.makes_open
            return
        old, new = set(at.names), set(step.schema.names)
        renamed = dict(effect.renamed)
        expected = {renamed.get(name, name) for name in old if name not in effect.gone} | set(effect.made)
        assert expected == new
        at = step.schema
    passing = [
        name for name in schema.names if name in at.names and name not in {*effect.made, *effect.changed}
    ]
    result = run_in_memory(recipe.statements, table)
    if len(result.rows) == len(table.rows) and not effect.looked_at and len(recipe.statements) == 2:
        for name in passing:
            index, out = table.names.index(name), known.names.index(name)
            assert [row[index] for row in table.rows] == [row[out] for row in known.rows], name


STEPS = (
    "trim *",
    'replace "a" with "b" in kiln',
    "recase text columns upper",
    'split potter at " " into first, last? in place',
    'make made = integer(pieces), both = "{kiln} {cone}"',
    "make cone = trim(cone)",
    'join kiln, cone with "/" into place in place',
    "rename pieces to number",
    "drop columns notes?",
    'fill studio with "x"',
    "sort by kiln",
    "convert cone to integer",
    "group by studio with n = count(), made = sum(integer(pieces))",
    "keep columns kiln, studio, cone, pieces",
)
NAMES = ("kiln", "studio", "potter", "cone", "pieces", "notes")


@given(st.lists(st.sampled_from(STEPS), max_size=6), st.booleans())
def test_columns_of_the_output_are_those_of_the_plan(steps: list[str], with_extract: bool) -> None:
    """Also without an extract: the columns that are mentioned then give outputs that are among those of the plan."""
    recipe = parsed("\n".join(steps))
    schema = Schema(tuple(Column(name) for name in NAMES))
    bound = bind_steps(recipe.statements[1:], schema)
    if bound.mistakes:
        return
    told = explain(recipe, schema if with_extract else None)
    assert {one.name for one in told.outputs} <= set(bound.schema.names)
    assert set(told.columns) <= set(NAMES)
    if with_extract:
        assert [one.name for one in told.outputs] == bound.schema.names
        reached = {source for one in told.outputs for source in one.sources}
        assert set(told.ended) == set(NAMES) - reached - (
            set(NAMES) & set(bound.schema.names) - set(told.ended)
        )


def test_sources_steps_and_files_of_a_column(tmp_path: Path) -> None:
    (tmp_path / "kilns.csv").write_text("kiln,fuel\n007,gas\n")
    text = f"""mangler 1 "Sources"
trim *
make hot = integer(peak) > 1200
lookup "{tmp_path / "kilns.csv"}" on kiln bring fuel
join studio, potter with "/" into who in place
drop columns peak
make nothing = 1
"""
    recipe = LinkedRecipe.parse(text).parsed
    told = explain(
        recipe, Schema(tuple(Column(name) for name in ("kiln", "studio", "potter", "peak", "notes")))
    )
    lines = {one.name: [told.told[at].label for at in one.steps] for one in told.outputs}
    sources = {one.name: one.sources for one in told.outputs}
    assert sources == {
        "kiln": ("kiln",),
        "fuel": ("kiln",),
        "who": ("studio", "potter"),
        "notes": ("notes",),
        "hot": ("peak",),
        "nothing": (),
    }
    assert lines["hot"] == ["2", "3"] and lines["fuel"] == ["2", "4"] and lines["nothing"] == ["7"]
    assert [one.files for one in told.outputs if one.name == "fuel"] == [(str(tmp_path / "kilns.csv"),)]
    assert told.ended == {}  # peak is in hot


def test_columns_that_are_mentioned_before_they_are_made() -> None:
    recipe = parsed(
        "make b = a\nmake a = 1\nrename c to d\ntrim d, e\nsplit f at ';' into g, h\nkeep columns g, d, i?"
    )
    assert explain(recipe, None).columns == ["a", "c", "e", "f", "i"]


@pytest.mark.parametrize(
    ("statement", "names"),
    [
        ("make a = b + 1 where c = '1'", ["c", "b"]),
        ("lookup 'k.csv' on kiln = number bring fuel as f where d = '1'", ["d", "kiln"]),
        ("split a at ';' into b, c? where d = '1'", ["a", "d"]),
        ("group by a with n = sum(b)", ["a", "b"]),
        ("unpivot a, b into c, d", ["a", "b"]),
    ],
)
def test_columns_that_a_statement_needs(statement: str, names: list[str]) -> None:
    assert columns_read(parsed(statement).statements[1]) == names


FATES = [
    ("trim *", "text", ["changes its cells, by *"], "It reaches the output."),
    ("trim *", "float", [], "No step touches it: it reaches the output as it is."),
    ("trim * except depth", "text", [], "No step touches it: it reaches the output as it is."),
    ("trim /^dep/", "text", ["changes its cells, by the pattern /^dep/"], "It reaches the output."),
    (
        "fill numeric columns with 0",
        "float",
        ["changes its cells, being one of the numeric columns"],
        "It reaches the output.",
    ),
    ("keep columns kiln", "text", ["drops it, as it is not named"], "It does not reach the output."),
    (
        "group by kiln with n = count()",
        "text",
        ["drops it, as it is not named"],
        "It does not reach the output.",
    ),
    ("drop columns /^d/", "text", ["drops it, by the pattern /^d/"], "It does not reach the output."),
    ("rename * upper", "text", ["names it DEPTH, by *"], "It reaches the output, as DEPTH."),
    (
        "require columns exactly kiln",
        "text",
        ["refuses the extract, which may have no other columns"],
        "It reaches the output.",
    ),
    ("dedupe", "text", ["looks at it: rows must be alike in all columns"], "It reaches the output."),
    ("make d2 = upper(depth)", "text", ["makes d2 of it, by its name"], "It reaches the output."),
    (
        "split depth at ';' into a, b in place",
        "text",
        ["makes a, b of it, by its name, and drops it"],
        "It does not reach the output.",
    ),
    (
        "make depth = 1",
        "text",
        ["makes a column of this name: the added one is given new values, or is in the way"],
        "It reaches the output.",
    ),
    (
        "convert depth to integer\ntrim *",
        "text",
        ["changes its cells, by its name"],
        "It reaches the output.",
    ),
]


@pytest.mark.parametrize("with_extract", [False, True])
@pytest.mark.parametrize(("steps", "kind", "what", "end"), FATES)
def test_what_happens_to_a_column_that_is_added(
    steps: str, kind: str, what: list[str], end: str, with_extract: bool
) -> None:
    schema = Schema((Column("kiln"), Column("studio"))) if with_extract else None
    fate = fate_of(parsed(steps), schema, Column("depth", ValueType(kind)))
    assert [one.what for one in fate.steps] == what
    assert fate.end == end
