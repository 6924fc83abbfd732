"""A split into columns: parts given out to names."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Any

import numpy as np

from mangler.expressions.conversion import shortened
from mangler.expressions.value import failing
from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.text.assign_parts import Slot, hand_out
from mangler.kernels.text.text_view import Flags
from mangler.language.literals import Template, Text
from mangler.language.source import SourceSpan
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.steps.shared.columnwise import apply_where, remarks_on_condition, where
from mangler.steps.shared.failing import Policy, policy_of, remarks_on_failures, take_out
from mangler.steps.shared.new_columns import Placement, apply_per_distinct, placed
from mangler.steps.shared.splitter import SplitsCells, Splitter
from mangler.table.batch import Batch
from mangler.table.contract import RowStep, SplitOfCells
from mangler.table.schema import Column, Schema
from mangler.table.tally import Tally

if TYPE_CHECKING:
    from mangler.steps.shared.conditions import Condition

MOST_SHOWN = 8
"""Parts of a failing row that its reason shows."""


@dataclass(frozen=True)
class SplitColumns(SplitsCells, RowStep):
    placement: Placement
    index: int
    splitter: Splitter
    slots: tuple[Slot, ...]
    absent: str | None
    too_few: Policy
    too_many: Policy
    condition: Condition | None
    said_too_few: bool
    counted: bool = False
    """Whether the number of columns is what this extract needs."""
    ways_out = "too few null or aside, too many unsplit, cut or aside, or a name? that only some rows fill"

    @property
    def schema(self) -> Schema:
        return self.placement.schema

    @property
    def new_names(self) -> list[str]:
        return self.placement.new_names

    def split_preview(self) -> SplitOfCells:
        return self

    def process(self, batch: Batch) -> tuple[Batch, Tally]:
        batch, met, tally = apply_where(batch, self.condition)
        column = batch.columns[self.index]
        columns, (few, many, counts) = apply_per_distinct(column, met, self._hand_out)
        self.splitter.note(column, counts, tally, met)
        if not self.too_few.takes_rows:
            tally.counts["too_few"] += int(np.count_nonzero(few))
        if not self.too_many.takes_rows:
            tally.counts["too_many"] += int(np.count_nonzero(many))
        if few.any() or many.any():
            batch, columns = self._without_failing(batch, columns, few, many, tally)
        for slot, array in zip(self.slots, columns, strict=True):
            if slot.pattern is not None:
                tally.histogram("taken_by_pattern")[slot.pattern] += len(array) - array.null_count
        tally.rows_out = len(batch)
        kept = self.placement.kept(columns)
        tally.counts["cells_changed"] += sum(map(len, kept))
        tally.counts["nulls_made"] += sum(array.null_count for array in kept)
        return batch.with_columns(self.placement.put(batch.columns, columns)), tally

    def _without_failing(
        self, batch: Batch, columns: list[ColumnArray], few: Flags, many: Flags, tally: Tally
    ) -> tuple[Batch, list[Any]]:
        """Without the rows that the policies take."""
        for which, policy in enumerate((self.too_few, self.too_many)):
            flags = (few, many)[which]
            if not policy.takes_rows or not flags.any():
                continue
            why = self._why(batch.columns[self.index], flags)
            batch, stay = take_out(batch, failing(flags, why), policy, tally)
            if stay is not None:
                columns = [array.filter(from_numpy(stay)) for array in columns]
                few, many = few[stay], many[stay]
        return batch, columns

    def _hand_out(self, column: ColumnArray) -> tuple[Sequence[Any], Sequence[Any]]:
        """The new columns; which cells have too few and too many parts, and how many each has."""
        parts = self.splitter.cut(column)
        rest = self.too_many.name == "unsplit"
        out = hand_out(parts, self.slots, self.absent, self.missing, rest, self.splitter.trim)
        return out.columns, (out.too_few, out.too_many, parts.counts)

    def _why(self, column: ColumnArray, flags: Flags) -> Callable[[int], str]:
        """Says the parts of a row that fails; all such rows are cut at once, when the first is asked for."""
        required = sum(slot.required for slot in self.slots)
        names = "1 name" if len(self.slots) == 1 else f"{len(self.slots)} names"
        if required < len(self.slots):
            names += f", {required} of them without ?"
        message: dict[int, list[str]] = {}

        def why(index: int) -> str:
            if not message:
                where = np.flatnonzero(flags)
                message.update(
                    zip(where.tolist(), self.splitter.lists(column.take(from_numpy(where))), strict=True)
                )
            parts = message[index]
            count = "1 part" if len(parts) == 1 else f"{len(parts)} parts"
            shown = " | ".join(shortened(part) or '""' for part in parts[:MOST_SHOWN])
            return f"{count} for {names}: {shown}{' | …' * (len(parts) > MOST_SHOWN)}"

        return why

    def facts(self, tally: Tally) -> list[str]:
        messages = self.splitter.facts(tally)
        if tally.counts["too_few"] and self.said_too_few:
            messages.append(self._told_of_few(tally))
        if tally.counts["too_many"]:
            is_kept = (True, len(self.slots) - 1) in self.placement.order
            what = (
                f"together in {self.new_names[-1]}"
                if self.too_many.name == "unsplit" and is_kept
                else "left out"
            )
            rows = "1 row" if tally.counts["too_many"] == 1 else f"{tally.counts['too_many']:,} rows"
            messages.append(f"parts left over in {rows}, {what}")
        return messages

    def remarks(self, tally: Tally) -> list[str]:
        messages = [*remarks_on_condition(tally), *self.splitter.remarks(tally)]
        if tally.counts["too_few"] and not self.said_too_few:
            messages.append(self._told_of_few(tally))
        if tally.rows_in > tally.counts["blank_cells"]:
            taken = tally.histograms.get("taken_by_pattern", Counter())
            for name, slot in zip(self.new_names, self.slots, strict=False):
                if slot.pattern is not None and not taken.get(slot.pattern):
                    messages.append(f"no part of any row matches the pattern of {name}?")
        if self.counted:
            number = len(self.slots)
            columns = "1 column" if number == 1 else f"{number:,} columns"
            always = f"into columns {number} always makes as many"
            messages.append(f"{columns} here; another extract may need another number: {always}")
        return [*messages, *remarks_on_failures(tally)]

    def _told_of_few(self, tally: Tally) -> str:
        rows = "1 row has" if tally.counts["too_few"] == 1 else f"{tally.counts['too_few']:,} rows have"
        what = "null" if self.missing is None else f'"{self.missing}"'
        return f"{rows} fewer parts than names without ?; {what} replaces what is missing"

    @property
    def missing(self) -> str | None:
        """What means a required name without a part."""
        literal = self.too_few.literal
        return str(literal.value) if literal is not None else None


def columns_step(
    statement: Statement,
    schema: Schema,
    index: int,
    splitter: Splitter,
    usage: str,
    needed: int | None = None,
) -> SplitColumns:
    """The split into named columns, or into numbered ones; into as many as are `needed` where no number is said."""
    names, slots = _names_and_slots(statement, schema.columns[index].name, needed)
    new = [(Column(name), span) for name, span in names]
    placement = placed(statement, schema, [index], new, statement.has("in place"))
    absent = statement.values.get("absent")
    return SplitColumns(
        placement,
        index,
        splitter,
        slots,
        None if absent is None else absent.value,
        policy_of(statement, "too few", "null"),
        policy_of(statement, "too many"),
        where(statement, schema, usage),
        statement.has("too few"),
        needed is not None,
    )


def _names_and_slots(
    statement: Statement, source: str, needed: int | None
) -> tuple[Sequence[tuple[str, SourceSpan]], tuple[Slot, ...]]:
    number = statement.number("number") or needed
    if number is not None:
        template = statement.values.get("named")
        names = [numbered_name(template, source, n) for n in range(1, number + 1)]
        span = statement.span_of("named" if template else "columns")
        return [(name, span) for name in names], (Slot(required=needed is None),) * number
    parts = statement.values["parts"]
    slots = tuple(Slot(not part.optional, part.pattern.re2 if part.pattern else "") for part in parts)
    return [(part.name.value, part.name.span) for part in parts], slots


def numbered_name(template: Text | Template | None, source: str, number: int) -> str:
    """The name of the n-th column of a split."""
    if template is None:
        return f"{source}_{number}"
    if isinstance(template, Text):
        return template.value
    holes = {"column": source, "n": str(number)}
    return "".join(part if isinstance(part, str) else holes[part.expression.value] for part in template.parts)
