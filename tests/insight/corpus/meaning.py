"""What cells mean, as the corpus knows it: by that the harm of a draft is judged."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal
from typing import Any

from tests.insight.corpus.specimen import Specimen

from mangler.engine.run.in_memory_run import run_in_memory
from mangler.insight.profile.profile import ColumnProfile
from mangler.language.mistake import Refusal
from mangler.language.tables import Head, SmallTable
from mangler.recipes.command_line_steps import read_steps

NOTHING = "(no value)"
"""The truth of a cell that means null."""

ROW = "row of the corpus"


@dataclass(frozen=True)
class Harm:
    """A cell that steps which are on changed into something that it does not mean."""

    column: str
    cell: str | None
    became: Any
    steps: str


def harm_of(specimen: Specimen, profile: ColumnProfile) -> list[Harm]:
    """Runs the steps that are on over the column's cells, and holds what comes out against its truth.

    White space never is the meaning. A cell may stay as it is, whatever else it means: that is no harm.
    """
    steps = [proposal.step for proposal in profile.proposals if proposal.sure]
    steps.sort(key=lambda step: [one.step for one in profile.proposals].index(step))
    if not steps:
        return []
    told = " | ".join(steps)
    rows = tuple((cell, str(number)) for number, cell in enumerate(specimen.cells))
    table = SmallTable((Head(specimen.name), Head(ROW)), rows)
    try:
        result = run_in_memory(read_steps(steps), table)
    except Refusal as refusal:
        return [Harm(specimen.name, None, f"refused: {refusal}", told)]
    truths = specimen.truth or specimen.cells
    values = result.columns[result.names.index(specimen.name)].to_pylist()
    numbers = result.columns[result.names.index(ROW)].to_pylist()
    there = {int(number): value for value, number in zip(values, numbers, strict=True)}
    if set(there) != set(range(len(rows))):
        return [Harm(specimen.name, None, f"{len(rows) - len(there)} rows are gone", told)]
    return [
        Harm(specimen.name, cell, there[number], told)
        for number, (cell, truth) in enumerate(zip(specimen.cells, truths, strict=True))
        if not _is_meant(there[number], cell, truth)
    ]


def _is_meant(became: Any, cell: str | None, truth: Any) -> bool:
    if cell is None or not cell.strip():
        return became is None or not str(became).strip()
    if became is None:
        return truth == NOTHING
    bare = " ".join(cell.replace("\u00a0", " ").replace("\u2009", " ").replace("\u202f", " ").split())
    if isinstance(became, str):
        return " ".join(became.split()) == bare or became == truth
    if truth == NOTHING:
        return False
    if isinstance(became, bool):
        return became is truth or (isinstance(truth, str) and truth.lower() == str(became).lower())
    if isinstance(became, (int, float, Decimal)):
        try:
            return abs(float(became) - float(str(truth))) <= 1e-9 * max(1.0, abs(float(became)))
        except ValueError:
            return False
    if isinstance(became, (datetime, date)):
        told = str(truth).replace("T", " ").replace("Z", "+00:00")
        return became.isoformat().replace("T", " ").removesuffix(" 00:00:00") == told
    return str(became).replace("T", " ").removesuffix("Z") == str(truth)


def all_harm(seen: Iterable[tuple[Specimen, ColumnProfile]]) -> list[Harm]:
    return [harm for specimen, profile in seen for harm in harm_of(specimen, profile)]
