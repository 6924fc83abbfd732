"""Runs the tests of a recipe: `test` under a step, proved by what its table becomes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from enum import StrEnum
from typing import Any

from mangler.engine.run.in_memory_run import InMemoryResult, run_in_memory
from mangler.engine.run.summary import mistakes_to_json
from mangler.language.mistake import Mistake, Refusal, enumerate_names
from mangler.language.proofs import Proof, proofs
from mangler.language.recipe import ParsedRecipe
from mangler.language.tables import Cell
from mangler.late_dataclass import dataclass
from mangler.steps import VERBS
from mangler.table.select import quote_name
from mangler.table.small import normalised


class Outcome(StrEnum):
    PASSED = "passed"
    FAILED = "failed"
    REFUSED = "refused"
    """The steps do not fit the test's table."""
    OFF = "off"
    """The step above is switched off, and the test with it."""


@dataclass(frozen=True)
class Verdict:
    """What happened to one test.

    `names` and `rows` are what came out, in the columns that the test shows and that are there.
    `passes_over` is another number of steps over which the test would pass, 0 if there is none.
    """

    proof: Proof
    outcome: Outcome
    names: tuple[str, ...] = ()
    rows: tuple[tuple[Cell, ...], ...] = ()
    asides: tuple[str, ...] = ()
    problems: tuple[str, ...] = ()
    """What is wrong besides cells: columns that did not come out, their order, types, rows set aside."""
    passes_over: int = 0
    refusal: Refusal | None = None
    remarks: tuple[str, ...] = ()
    """What the steps of a failing test remark on their work: the likely cause, often."""

    @property
    def speaks_against(self) -> bool:
        return self.outcome in (Outcome.FAILED, Outcome.REFUSED)

    def to_json(self) -> dict[str, Any]:
        """The documented shape of one test in `mangler test --json`."""
        expected = self.proof.expected
        return {
            "line": self.proof.test.line,
            "title": self.proof.title or None,
            "steps": self.proof.count,
            "outcome": str(self.outcome),
            "expected": {
                "columns": list(expected.names),
                "rows": [list(row) for row in expected.rows],
                "aside": list(expected.asides),
            },
            "got": {
                "columns": list(self.names),
                "rows": [list(row) for row in self.rows],
                "aside": list(self.asides),
            }
            if self.outcome in (Outcome.PASSED, Outcome.FAILED)
            else None,
            "would_pass_over": self.passes_over or None,
            "remarks": [*self.problems, *self.remarks],
            "mistakes": mistakes_to_json(self.refusal) if self.refusal else [],
        }


def prove(recipe: ParsedRecipe) -> list[Verdict]:
    """The verdict on each test of a recipe, in their order."""
    return [_judge(proof) for proof in proofs(recipe.items, VERBS)]


def _judge(proof: Proof) -> Verdict:
    if proof.switched_off:
        return Verdict(proof, Outcome.OFF)
    try:
        result = run_in_memory(proof.steps, proof.given)
    except Refusal as refusal:
        return Verdict(proof, Outcome.REFUSED, refusal=_in_terms_of_the_test(proof, refusal))
    shown = _shown(proof, result)
    if _is_proved(proof, result):
        return Verdict(proof, Outcome.PASSED, shown.names, shown.rows, result.asides)
    return Verdict(
        proof,
        Outcome.FAILED,
        shown.names,
        shown.rows,
        result.asides,
        _told(proof, result),
        _other_count(proof),
        None,
        result.remarks,
    )


@dataclass(frozen=True)
class Shown:
    names: tuple[str, ...]
    rows: tuple[tuple[Cell, ...], ...]


def _shown(proof: Proof, result: InMemoryResult) -> Shown:
    """What came out, in the columns that the test shows: they are compared in their order as well."""
    wanted = [i for i, name in enumerate(result.names) if name in proof.expected.names]
    names = tuple(result.names[i] for i in wanted)
    return Shown(names, tuple(tuple(row[i] for i in wanted) for row in result.rows))


def _is_proved(proof: Proof, result: InMemoryResult) -> bool:
    shown, expected = _shown(proof, result), proof.expected
    same = shown.names == expected.names and result.asides == expected.asides
    return same and shown.rows == expected_rows(proof, result) and not _wrong_types(proof, result)


def expected_rows(proof: Proof, result: InMemoryResult) -> tuple[tuple[Cell, ...], ...]:
    """The rows that are expected, their cells spelled as the types of what came out spell them."""
    expected = proof.expected
    columns = []
    for index, name in enumerate(expected.names):
        cells = [row[index] for row in expected.rows]
        if name in result.names:
            span = result.names.index(name)
            cells = normalised(cells, result.columns[span], result.schema.columns[span].type)
        columns.append(cells)
    return tuple(tuple(column[i] for column in columns) for i in range(len(expected.rows)))


def _wrong_types(proof: Proof, result: InMemoryResult) -> list[str]:
    """Columns that came out in another type than their head states."""
    kinds = {column.name: column.type for column in result.schema.columns}
    return [
        f'"{head.name}" came out as {kinds[head.name]}, and {head.type} is expected'
        for head in proof.expected.heads
        if head.type and head.name in kinds and kinds[head.name] != head.type
    ]


def _told(proof: Proof, result: InMemoryResult) -> tuple[str, ...]:
    """What is wrong besides cells."""
    messages = []
    expected = proof.expected
    lacking = [name for name in expected.names if name not in result.names]
    names = _shown(proof, result).names
    if lacking:
        messages.append(
            f"There came out no {'column' if len(lacking) == 1 else 'columns'} {enumerate_names(lacking)}."
        )
    elif names != expected.names:
        messages.append("The columns came out in another order.")
    messages += [f"{sentence}." for sentence in _wrong_types(proof, result)]
    if result.asides != expected.asides:
        wanted = ", ".join(f'"{reason}"' for reason in expected.asides) or "none"
        got = ", ".join(f'"{reason}"' for reason in result.asides) or "none"
        messages.append(f"Rows set aside: expected {wanted}, got {got}.")
    return tuple(messages)


def _other_count(proof: Proof) -> int:
    """The number of steps nearest to the test's own over which it would pass."""
    for count in sorted(range(1, len(proof.above) + 1), key=lambda count: abs(count - proof.count)):
        if count != proof.count and _passes(replace(proof, count=count)):
            return count
    return 0


def _passes(proof: Proof) -> bool:
    try:
        return _is_proved(proof, run_in_memory(proof.steps, proof.given))
    except Refusal:
        return False


def _in_terms_of_the_test(proof: Proof, refusal: Refusal) -> Refusal:
    """A step names a column that the test's table does not have: that is the test's lack, not an extract's."""
    return Refusal([_with_other_words(proof, mistake) for mistake in refusal.mistakes], refusal.code)


def _with_other_words(proof: Proof, mistake: Mistake) -> Mistake:
    if not mistake.missing:
        return mistake
    name = mistake.missing[0]
    line = proof.test.line
    return Mistake(
        "test-lacks-column",
        f'the test in line {line} gives no column "{name}" to this step',
        f"Only the columns shown are given: add {quote_name(name)} to the table in line {line + 1}.",
        mistake.span,
        mistake.missing,
    )


def counts(verdicts: Sequence[Verdict]) -> dict[str, int]:
    """How many tests came out how, in the order of Outcome."""
    return {str(outcome): sum(verdict.outcome is outcome for verdict in verdicts) for outcome in Outcome}
