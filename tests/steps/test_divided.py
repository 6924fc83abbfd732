"""Every step gives the same rows however its rows are divided: into any partitions, gathered apart, dumped and merged.

Row-wise steps work on each partition by itself; ordered steps get their states combined in any grouping; gathering
steps gather each run of partitions apart, write it as bytes, read it again, and merge it.
"""

from __future__ import annotations

import io
from collections.abc import Sequence
from pathlib import Path
from random import Random
from typing import Any

import numpy as np
import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mangler.engine.plan.plan import bind_steps
from mangler.language.source import Source
from mangler.language.tables import read_small_table
from mangler.recipes.command_line_steps import read_steps
from mangler.sample.generate import write_sample
from mangler.steps import VERBS
from mangler.table.batch import Batch, NoOrigin
from mangler.table.contract import EarlyStep, Gathering, GatheringStep, OrderedStep, RowStep, Step
from mangler.table.memory_budget import MemoryBudget
from mangler.table.schema import Schema
from mangler.table.small import cells_of, column_of, schema_of
from mangler.table.state import StateReader, StateWriter
from mangler.table.tally import Tally

EXAMPLES = [
    (name, example)
    for name in VERBS.names()
    if VERBS.is_step(name)
    for example in VERBS.declaration(name).examples
]
MORE = (
    ("dedupe", "dedupe by a leaving last"),
    ("dedupe", "dedupe by a"),
    ("dedupe", "dedupe by b, a anycase"),
    ("sort", "sort by b descending, a nulls first"),
    (
        "group",
        "group by a with n = count(), all = join(b, '+'), f = first(b), d = count(distinct b), m = median(length(b))",
    ),
    ("group", "group by b anycase with l = join(distinct a, ','), s = sum(length(a))"),
    ("pivot", "pivot b into columns of a with join(a, '+') failures null"),
    ("split", "split a at 'x' into columns"),
    ("fill", "fill b up within a"),
    ("fill", "fill b down within a where a != 'x'"),
    ("require one row", "require one row per a, b failures warn"),
    ("number rows", "number rows as n from 5"),
    ("require columns", "require columns a, b"),
    (
        "make",
        "make n = count(), p = previous(b), x = next(b, 2), r = rank(), s = running(max(b)), l = list(b), f = first(b)"
        " within a sorted by b descending",
    ),
    (
        "make",
        "make n = running(count()), j = join(distinct a, '+') within all rows sorted by b where a != 'x'",
    ),
    ("number rows", "number rows as n within b"),
    ("keep first", "keep first 3 rows"),
    ("keep last", "keep last 2 rows within a sorted by b"),
    ("dedupe", "dedupe by a leaving first"),
    ("dedupe", "dedupe by a leaving fullest sorted by b anycase"),
    ("require overall", "require overall count(b) > 3 and min(a) != 'x' failures warn"),
)
Cells = list[list[str | None]]


def divided(count: int, random: Random) -> list[tuple[int, int]]:
    """Runs of rows, some of them empty, that make up so many rows."""
    edges = sorted(random.randint(0, count) for _ in range(random.randint(0, 6)))
    return list(zip([0, *edges], [*edges, count], strict=True))


def cells(batches: Sequence[Batch], schema: Any) -> tuple[list[str], Cells]:
    columns: Cells = [[] for _ in schema.names]
    for batch in batches:
        for own, column in zip(columns, batch.columns, strict=True):
            own += cells_of(column)
    return list(schema.names), columns


def counts(tally: Tally) -> dict[str, Any]:
    """What must not depend on how rows are divided: everything except lines, which are not known of gathered rows."""
    record = tally.to_record()
    record["failures"] = [(row, why) for row, _, why in tally.failures]
    record["aside"] = list(tally.aside)
    record["counts"] = {name: count for name, count in tally.counts.items() if count}
    record["histograms"] = {name: dict(counter) for name, counter in tally.histograms.items() if counter}
    return {name: value for name, value in record.items() if value}


def gathered(step: GatheringStep, parts: list[tuple[int, Batch]], budget: MemoryBudget) -> Gathering:
    gathering = step.gather(budget)
    for partition, batch in parts:
        gathering.absorb(batch, partition)
    return gathering


def written_and_read(step: GatheringStep, gathering: Gathering, budget: MemoryBudget) -> Gathering:
    file = io.BytesIO()
    gathering.dump(StateWriter(file))
    file.seek(0)
    again = step.gather(budget)
    again.load(StateReader(file))
    assert not file.read()
    return again


def in_any_grouping(states: list[Any], combine: Any, random: Random) -> Any:
    """All states combined, neighbours first in a random order."""
    states = list(states)
    while len(states) > 1:
        at = random.randrange(len(states) - 1)
        states[at : at + 2] = [combine(states[at], states[at + 1])]
    return states[0]


def through(step: Step, parts: list[Batch], random: Random, memory: int) -> tuple[Any, dict[str, Any]]:
    """The cells that come out, and what was counted."""
    total = Tally()
    if isinstance(step, RowStep):
        out = []
        for batch in parts:
            after, tally = step.process(batch)
            out.append(after)
            total.add(tally)
        return cells(out, step.schema), counts(total)
    if isinstance(step, OrderedStep):
        out = []
        for index, batch in enumerate(parts):
            before = [step.initial(), *map(step.summarise, parts[:index])]
            state = in_any_grouping(before, step.combine, random)
            after, tally = step.apply(batch, state, step.summarise(batch))
            out.append(after)
            total.add(tally)
        return cells(out, step.schema), counts(total)
    assert isinstance(step, GatheringStep)
    budget = MemoryBudget(memory)
    numbered = list(enumerate(parts))
    states = [
        written_and_read(step, gathered(step, numbered[first:last], budget), budget)
        if random.random() < 0.7
        else gathered(step, numbered[first:last], budget)
        for first, last in divided(len(numbered), random)
    ]

    def merged(earlier: Gathering, later: Gathering) -> Gathering:
        earlier.merge(later)
        return earlier

    whole = in_any_grouping(states, merged, random)
    schema = (whole.settle() or step).schema
    out = list(whole.release())
    found = cells(out, schema), counts(whole.tally)
    budget.close()
    return found


def let_go_early(step: EarlyStep, parts: list[Batch], memory: int) -> tuple[Any, dict[str, Any]] | None:
    """The same where rows go as they come; None where they must wait."""
    budget = MemoryBudget(memory)
    early = step.early(budget)
    if early is None:
        return None
    total, out, state = Tally(), [], early.initial()
    for batch in parts:
        own = early.summarise(batch)
        after, tally = early.apply(batch, state, own)
        state = early.combine(state, own)
        out.append(after)
        total.add(tally)
    out += early.held()
    total.add(early.tally)
    found = cells(out, early.schema), counts(total)
    budget.close()
    return found


def check(statement: str, table: Batch, schema: Any, random: Random, memory: int) -> None:
    bound = bind_steps(read_steps([statement]), schema)
    assert not bound.mistakes
    step = bound.steps[0].step
    parts = [table.slice(start, end - start) for start, end in divided(len(table), random)]
    whole = through(step, [table], Random(0), 1 << 30)
    assert through(step, parts, random, memory) == whole
    if isinstance(step, EarlyStep):
        assert let_go_early(step, parts, memory) in (whole, None)
    counted = {*whole[1].get("counts", ()), *whole[1].get("histograms", ())}
    assert counted <= set(VERBS.declaration(bound.steps[0].statement.verb).counters)


@pytest.mark.parametrize(("name", "example"), EXAMPLES, ids=lambda one: one if isinstance(one, str) else None)
@pytest.mark.parametrize("seed", range(6))
def test_the_examples_of_the_manual(
    name: str, example: Any, seed: int, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    if name in ("lookup", "map"):  # the files that they read
        write_sample(tmp_path, 1)
        monkeypatch.chdir(tmp_path)
    given_table = read_small_table(Source("table", example.before))
    columns = tuple(column_of(given_table, index) for index in range(len(given_table.heads)))
    rows = np.arange(1, len(given_table.rows) + 1, dtype=np.int64)
    check(example.statement, Batch(columns, rows, NoOrigin()), schema_of(given_table), Random(seed), 1 << 30)


CELL = st.sampled_from(["x", "y", "X", "xy", "y x z", "é" * 40, "", None])


@given(
    rows=st.lists(st.tuples(CELL, CELL), max_size=24),
    seed=st.integers(0, 10**6),
    memory=st.sampled_from([400, 3_000, 1 << 30]),
)
@pytest.mark.parametrize("statement", [statement for _, statement in MORE])
def test_tables_of_any_rows(
    rows: list[tuple[str | None, str | None]], seed: int, memory: int, statement: str
) -> None:
    columns = tuple(pa.array([row[place] for row in rows], pa.string()) for place in (0, 1))
    table = Batch(columns, np.arange(1, len(rows) + 1, dtype=np.int64), NoOrigin())
    check(statement, table, Schema.of_text(["a", "b"]), Random(seed), memory)


def test_every_verb_that_is_a_step_is_divided_here() -> None:
    here = {name for name, _ in EXAMPLES} | {name for name, _ in MORE}
    assert {name for name in VERBS.names() if VERBS.is_step(name)} == here
