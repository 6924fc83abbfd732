"""Tries proposed steps on a column's values: how many cells each changes, and what it can do nothing with."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace
from functools import lru_cache
from typing import Any, TypeAlias

import numpy as np
import pyarrow.compute as pc

from mangler.engine.plan.plan import bind_steps
from mangler.insight.columns.facts import Counts
from mangler.insight.columns.finding import Proposal, Stage
from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.text.patterns import flags_of, matches
from mangler.kernels.text.shapes import shapes
from mangler.kernels.text.text_view import Flags, view
from mangler.kernels.text.white_space import trim
from mangler.language.mistake import Refusal
from mangler.recipes.command_line_steps import read_steps
from mangler.table.batch import Batch, NoOrigin
from mangler.table.contract import RowStep
from mangler.table.schema import Column, Schema, ValueType
from mangler.table.select import quote_name

KEPT = 256
MOST_LOOKED_AT = 500
MOST_EXAMPLES = 3
LONGEST_EXAMPLE = 60


def prove(
    name: str, values: ColumnArray, counts: Counts, proposals: Sequence[Proposal], cells: int
) -> list[Proposal]:
    """The proposals that do something, in their order, with what each did after the sure ones before it.

    `values` are a column's, each in so many of its `cells` that are not null. Values that are not there are
    taken to be like the values that are there.
    """
    about = int(counts.sum()) != cells
    times = cells / max(int(counts.sum()), 1)
    proven: list[Proposal] = []
    current = values
    for proposal in proposals:
        if proposal.stage is Stage.SPLIT:  # a person decides about its columns; its finder counted the cells
            proven.append(replace(proposal, about=about))
            continue
        if len(proposals) == 1 and _surely_converts(proposal, current):
            tried: Tried | None = None, np.ones(len(counts), np.bool_), np.zeros(len(counts), np.bool_)
        else:
            tried = _try(name, current, counts, proposal)
        if tried is None:
            continue
        after, changed, failing = tried
        if not changed.any():
            continue
        message = replace(
            proposal,
            cells=round(int(counts[changed].sum()) * times),
            failing=round(int(counts[failing].sum()) * times),
            about=about,
            examples=_examples(current, counts, changed & ~failing),
            untouched=_untouched(current, counts, changed),
        )
        if message.failing and message.sure and "failures" not in message.step:
            message = replace(
                message, question=f"What happens to the {message.failing:,} cells that would not convert?"
            )
        if (message.failing or about) and message.stage is Stage.CONVERT and "failures" not in message.step:
            message = replace(message, step=f"{message.step} failures aside")
        proven.append(message)
        if message.sure and after is not None:
            current = after
    return proven


Tried: TypeAlias = tuple[Any, Flags, Flags]
NUMBER_STEP = re.compile(r" to (?:integer|decimal|float)$")
SHORT_PLAIN = r"^-?[0-9]{1,18}(\.[0-9]{1,9})?$"
"""Numbers that every type of numbers holds as they are, where their step says no more than the type."""


def _surely_converts(proposal: Proposal, values: ColumnArray) -> bool:
    """Whether a plain conversion of plain numbers need not be tried: a wide table has thousands of them."""
    if proposal.stage is not Stage.CONVERT or not NUMBER_STEP.search(proposal.step) or not len(values):
        return False
    return bool(matches(values, SHORT_PLAIN).all()) and (
        not proposal.step.endswith(" integer") or not pc.any(pc.match_substring(values, pattern=".")).as_py()
    )


def _try(name: str, values: ColumnArray, counts: Counts, proposal: Proposal) -> Tried | None:
    """The column after the step, where it keeps its rows; the values that change, and the values that fail."""
    step = proposal.step
    converts = proposal.stage is Stage.CONVERT
    if converts:
        step = f"{step.removesuffix(' failures aside')} failures null"
    try:
        work = _bound(*_of_any_column(step, name))
        if work is None:
            return None
        batch = Batch((values,), np.arange(1, len(values) + 1, dtype=np.int64), NoOrigin())
        after, _ = work.process(batch)
    except Refusal:
        return None
    column = after.columns[0]
    if not converts:
        same = flags_of(pc.equal(values, column)) | (~_valid(values) & ~_valid(column))
        return column, ~same, np.zeros(len(counts), np.bool_)
    there = _valid(column)
    blank = view(trim(values).array).lengths == 0
    return None, there, _valid(values) & ~there & ~blank


def _of_any_column(step: str, name: str) -> tuple[str, str]:
    """The step for a column called x, where that is only another name: many columns have the same step then."""
    spelled = quote_name(name)
    for verb in ("convert ", "trim "):
        if step.startswith(f"{verb}{spelled} ") or step == f"{verb}{spelled}":
            return f"{verb}x{step.removeprefix(verb + spelled)}", "x"
    return step, name


@lru_cache(KEPT)
def _bound(step: str, name: str) -> RowStep | None:
    """The step, bound to a table of this one column; None where it does not fit."""
    bound = bind_steps(read_steps([step]), Schema((Column(name, ValueType.TEXT),)))
    if bound.mistakes:
        return None
    work = bound.steps[0].step
    assert isinstance(work, RowStep)  # proposals are about single cells
    return work


def _examples(values: ColumnArray, counts: Counts, changed: Flags) -> tuple[str, ...]:
    order = np.flatnonzero(changed)
    order = order[np.argsort(-counts[order], kind="stable")][:MOST_LOOKED_AT]
    texts = values.take(from_numpy(order))
    by_shape: dict[str, str] = {}
    others = []
    for text, shape in zip(texts.to_pylist(), shapes(texts).to_pylist(), strict=True):
        if len(text) <= LONGEST_EXAMPLE and text.strip():
            by_shape.setdefault(shape, text)
        else:
            others.append(text)
    if not by_shape and others:  # blank cells, or long ones
        return (min(others, key=len),)
    return tuple(by_shape.values())[:MOST_EXAMPLES]


def _untouched(values: ColumnArray, counts: Counts, changed: Flags) -> str:
    """A value that stays as it is; empty where there is none."""
    stays = ~changed & _valid(values)
    return next(iter(_examples(values, counts, stays)), "") if stays.any() else ""


def _valid(column: ColumnArray) -> Flags:
    return np.asarray(column.is_valid())
