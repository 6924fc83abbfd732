"""How often findings are right, and how many faults are found: precision and recall of each kind."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field

import pyarrow as pa
from tests.insight.corpus.specimen import Sheet, Specimen

from mangler.insight.columns.counting import count_columns
from mangler.insight.columns.finding import Kind
from mangler.insight.profile.profile import ColumnProfile, profile_of


@dataclass
class Score:
    right: list[str] = field(default_factory=list)
    wrong: list[str] = field(default_factory=list)
    """Columns in which it was found, and is not."""
    missed: list[str] = field(default_factory=list)

    @property
    def precision(self) -> float:
        found = len(self.right) + len(self.wrong)
        return len(self.right) / found if found else 1.0

    @property
    def recall(self) -> float:
        there = len(self.right) + len(self.missed)
        return len(self.right) / there if there else 1.0


def profiled(sheets: Iterable[Sheet]) -> list[tuple[Specimen, ColumnProfile]]:
    """Every column of the corpus with its profile."""
    out = []
    for sheet in sheets:
        columns = {one.name: pa.array(one.cells, pa.string()) for one in sheet.columns}
        profile = profile_of(count_columns("corpus", columns))
        out += list(zip(sheet.columns, profile.columns, strict=True))
    return out


def scores(seen: Iterable[tuple[Specimen, ColumnProfile]]) -> dict[Kind, Score]:
    by_kind = {kind: Score() for kind in Kind}
    for specimen, profile in seen:
        found = {finding.kind for finding in profile.findings}
        for kind, score in by_kind.items():
            if kind in found:
                (score.right if kind in specimen.kinds else score.wrong).append(specimen.name)
            elif kind in specimen.kinds:
                score.missed.append(specimen.name)
    return by_kind


def steps_for_clean(seen: Iterable[tuple[Specimen, ColumnProfile]]) -> list[tuple[str, str]]:
    """Steps proposed for columns with which nothing is wrong."""
    return [
        (specimen.name, proposal.step)
        for specimen, profile in seen
        if not specimen.kinds
        for proposal in profile.proposals
    ]
