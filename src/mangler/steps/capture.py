"""`capture`: what a pattern's groups match, into new columns."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.expressions.conversion import shortened
from mangler.expressions.reasons import ByCell
from mangler.expressions.value import failing
from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.text.capture import capture, group_names
from mangler.kernels.text.patterns import flags_of, problem_of
from mangler.kernels.text.text_view import Flags
from mangler.kernels.text.white_space import trim
from mangler.language.declaration import Declaration, Example
from mangler.language.literals import Name
from mangler.language.mistake import Mistake
from mangler.language.patterns import Pattern
from mangler.language.source import SourceSpan
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.steps.shared.checks import check_is_text
from mangler.steps.shared.columnwise import apply_where, note_examples, remarks_on_condition, such_as, where
from mangler.steps.shared.counters import CHANGES, CONDITION, FAILED, MISSES
from mangler.steps.shared.failing import Policy, policy_of, remarks_on_failures, take_out
from mangler.steps.shared.matching import advise_on_misses, count_beyond_ascii, uses_ascii_classes
from mangler.steps.shared.new_columns import (
    Placement,
    apply_per_distinct,
    check_in_place,
    placed,
    text_column,
)
from mangler.table.batch import Batch
from mangler.table.contract import RowStep
from mangler.table.schema import Column, Schema
from mangler.table.tally import Tally

if TYPE_CHECKING:
    from mangler.steps.shared.conditions import Condition

DECLARATION = Declaration(
    name="capture",
    usage="capture COLUMN by PATTERN [into NAMES] [in place] [failures (stop|aside|null|VALUE)] [where CONDITION]",
    meaning="Puts what the groups of a pattern match into new columns, one per group, at the first place in the cell"
    " where the pattern is found. A group that took no part is null. A blank cell has nothing to capture: its new"
    " columns are null and nothing fails.",
    clauses={
        "into": "The names of the new columns, one per group, in the order of their opening brackets; _ for one that is"
        " not wanted. Without it every group names its own column: (?<temperature>\\d+).",
        "in place": "The new columns take the source's place; without it they are right after it.",
        "failures": "What happens to a cell in which the pattern is not found: null (the default, counted) or a text"
        " goes into the new columns; aside sets the row aside; stop, the default with in place, delivers nothing and"
        " reports the rows.",
    },
    examples=(
        Example(
            "capture notes by /batch:\\s*(\\d+)(.*)end of batch/s into batch, remarks",
            'notes\n"batch: 15\\ntest tiles\\nend of batch"\nslow cooling\nnull',
            'notes | batch | remarks\n"batch: 15\\ntest tiles\\nend of batch" | 15 | "\\ntest tiles\\n"\n'
            "slow cooling | null | null\nnull | null | null",
        ),
        Example(
            "capture contacts by /^(?<person>[^@]+)@(?<host>.+)$/ in place failures aside",
            "contacts\npim@example.org\nby phone",
            'person | host\npim | example.org\naside "by phone: the pattern is not found"',
        ),
        Example(
            "capture code by /^(\\p{Lu}+)(\\d+)/ into studio, kiln in place",
            "code\nCW007\nQU115",
            "studio | kiln\nCW | 007\nQU | 115",
        ),
        Example(
            "capture pieces by /^(\\w+)(?:=(\\d+))?/ into piece, made",
            "pieces\nbowl=4\nplate",
            "pieces | piece | made\nbowl=4 | bowl | 4\nplate | plate | null",
        ),
    ),
    notes="For what is before, after or between two marks, the functions up_to, past and inside say it in words:"
    ' make batch = inside(notes, "batch:", "end of batch").',
    counters=(*CHANGES, *CONDITION, *FAILED, *MISSES, "unmatched", "missed_by_line"),
)


@dataclass(frozen=True)
class Capture(RowStep):
    placement: Placement
    index: int
    pattern: Pattern
    policy: Policy
    condition: Condition | None
    said_failures: bool

    @property
    def schema(self) -> Schema:
        return self.placement.schema

    def process(self, batch: Batch) -> tuple[Batch, Tally]:
        batch, met, tally = apply_where(batch, self.condition)
        column = batch.columns[self.index]
        columns, (unmatched, by_case, by_line) = apply_per_distinct(column, met, self._capture)
        tally.counts["missed_by_case"] += int(np.count_nonzero(by_case))
        tally.counts["missed_by_line"] += int(np.count_nonzero(by_line))
        if uses_ascii_classes(self.pattern):
            count_beyond_ascii(column, tally)
        if self.policy.takes_rows:
            failures = failing(
                unmatched, ByCell(column, lambda text: f"{shortened(text)}: the pattern is not found")
            )
            batch, stay = take_out(batch, failures, self.policy, tally)
            if stay is not None:
                columns = [array.filter(from_numpy(stay)) for array in columns]
        else:
            tally.counts["unmatched"] += int(np.count_nonzero(unmatched))
            note_examples(tally, column, unmatched)
        tally.rows_out = len(batch)
        kept = self.placement.kept(columns)
        tally.counts["cells_changed"] += sum(map(len, kept))
        tally.counts["nulls_made"] += sum(array.null_count for array in kept)
        return batch.with_columns(self.placement.put(batch.columns, columns)), tally

    def _capture(self, column: ColumnArray) -> tuple[Sequence[Any], Sequence[Any]]:
        """The new columns, and the cells that hold something in which the pattern is not found.

        Then those of them in which it would be found in any letter case, or if . matched line breaks.
        """
        out = capture(column, self.pattern.re2)
        if not out.unmatched.any():
            return out.groups, (out.unmatched,) * 3
        blank = np.asarray(pc.fill_null(pc.equal(trim(column).array, ""), True))
        unmatched = out.unmatched & ~blank
        nearly = tuple(self._found_with(flag, column, unmatched) for flag in ("i", "s"))
        if self.policy.literal is None:
            return out.groups, (unmatched, *nearly)
        filler = pa.scalar(self.policy.literal.value, pa.string())
        flags = from_numpy(unmatched)
        return [pc.if_else(flags, filler, array) for array in out.groups], (unmatched, *nearly)

    def _found_with(self, flag: str, column: ColumnArray, unmatched: Flags) -> Flags:
        """Of the cells without a match, those that have one with another flag."""
        found = np.zeros(len(column), np.bool_)
        if flag not in self.pattern.flags and unmatched.any():
            cells = column.filter(from_numpy(unmatched))
            found[unmatched] = flags_of(
                pc.match_substring_regex(cells, pattern=f"(?{flag}:{self.pattern.re2})")
            )
        return found

    def facts(self, tally: Tally) -> list[str]:
        return [self._told_of_unmatched(tally)] if tally.counts["unmatched"] and self.said_failures else []

    def remarks(self, tally: Tally) -> list[str]:
        messages = remarks_on_condition(tally)
        if tally.counts["unmatched"] and not self.said_failures:
            messages.append(self._told_of_unmatched(tally) + such_as(tally))
        for count, flag, why in (
            ("missed_by_case", "i", "in another letter case"),
            ("missed_by_line", "s", "if . matched line breaks"),
        ):
            if tally.counts[count]:
                cells = "1 cell" if tally.counts[count] == 1 else f"{tally.counts[count]:,} cells"
                messages.append(f"{cells} would match {why}: the flag {flag} after the pattern")
        if tally.counts["cells_beyond_ascii"]:
            messages += advise_on_misses(
                Tally(counts=Counter(cells_beyond_ascii=tally.counts["cells_beyond_ascii"]))
            )
        return [*messages, *remarks_on_failures(tally)]

    def _told_of_unmatched(self, tally: Tally) -> str:
        cells = "1 cell does" if tally.counts["unmatched"] == 1 else f"{tally.counts['unmatched']:,} cells do"
        what = "null" if self.policy.literal is None else f'"{self.policy.literal.value}"'
        return f"{cells} not match the pattern, and {what} is in the new columns"


def bind(statement: Statement, schema: Schema) -> Capture:
    name, pattern = statement.get("column", Name), statement.get("by", Pattern)
    assert name is not None and pattern is not None
    index = text_column(name, schema, "capture")
    in_place = statement.has("in place")
    new = [(Column(name), span) for name, span in _names(statement, pattern)]
    placement = placed(statement, schema, [index], new, in_place)
    policy = policy_of(statement, default="stop" if in_place else "null")
    condition = where(statement, schema, DECLARATION.usage)
    return Capture(placement, index, pattern, policy, condition, statement.has("failures"))


def _names(statement: Statement, pattern: Pattern) -> list[tuple[str, SourceSpan]]:
    said = statement.names("into")
    if said is not None:
        return [(name.value, name.span) for name in said]
    return [(name, pattern.span) for name in group_names(pattern.re2)]


def check(statement: Statement) -> list[Mistake]:
    pattern = statement.get("by", Pattern)
    assert pattern is not None
    mistakes = [*check_in_place(statement), *check_is_text(statement.values.get("value"), "capture")]
    if problem_of(pattern.re2):
        return mistakes  # reported already, and its groups cannot be counted
    groups, said = group_names(pattern.re2), statement.names("into")
    wrong = _wrong_names(groups, said)
    if wrong is not None:
        word, message, advice = wrong
        at_names = said is not None and groups
        mistakes.append(
            Mistake(word, message, advice, statement.span_of("into") if at_names else pattern.span)
        )
    return mistakes


def _wrong_names(groups: Sequence[str], said: Sequence[Name] | None) -> tuple[str, str, str] | None:
    """The word, the message and the advice where the groups of a pattern and the names after `into` do not fit."""
    count = "one group" if len(groups) == 1 else f"{len(groups)} groups"
    if not groups:
        return (
            "pattern-without-group",
            "the pattern has no group, so there is nothing to capture",
            "Put what is wanted in round brackets.",
        )
    if said is not None and any(groups):
        named = next(group for group in groups if group)
        return (
            "name-taken",
            f'the group "{named}" has a name already',
            "Name the columns in the pattern, all of them, or after into.",
        )
    if said is not None and len(said) != len(groups):
        return (
            "wrong-number-of-names",
            f"the pattern has {count}, and {len(said)} {'name is' if len(said) == 1 else 'names are'} given",
            "Give a name for each group; one that is only there to group is written (?:…).",
        )
    if said is None and not all(groups):
        return (
            "wrong-number-of-names",
            "the group has no name for a column"
            if len(groups) == 1
            else "some groups have no name for a column",
            "Write into and a name for each, or (?<name>…) in the pattern; (?:…) only groups.",
        )
    return None
