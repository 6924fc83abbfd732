"""`join`: columns put together in one."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.blanks import BLANKS
from mangler.kernels.arrow import from_numpy
from mangler.kernels.text.join_columns import join_columns
from mangler.kernels.text.patterns import flags_of
from mangler.kernels.text.text_view import Flags, TextArray, TooLargeError
from mangler.kernels.values.format_values import format_values
from mangler.language.declaration import Declaration, Example
from mangler.language.literals import Name
from mangler.language.mistake import Mistake, extract_does_not_fit, wrong_recipe
from mangler.language.source import SourceSpan
from mangler.language.spelling import spell_text
from mangler.language.statement import Statement
from mangler.language.usage import parse_usage
from mangler.late_dataclass import dataclass
from mangler.steps.shared.checks import check_is_text
from mangler.steps.shared.columnwise import apply_where, matching_names, remarks_on_condition, where
from mangler.steps.shared.counters import CHANGES, CONDITION
from mangler.steps.shared.new_columns import Placement, check_in_place, placed
from mangler.table.batch import Batch
from mangler.table.contract import RowStep
from mangler.table.schema import Column, Schema, ValueType
from mangler.table.select import select
from mangler.table.tally import Tally

if TYPE_CHECKING:
    from mangler.steps.shared.conditions import Condition

DECLARATION = Declaration(
    name="join",
    usage="join COLUMNS with TEXT into NAME [nulls (skip|null|VALUE)] [blanks skip] [in place] [where CONDITION]",
    meaning="Joins the values of columns, row by row, with a text between them, in the order in which the columns are"
    " named; those that *, a pattern or a family brings are in the extract's order. Other types than text are"
    " spelled as they would be written. Null in all columns gives null.",
    clauses={
        "nulls": "skip (the default) leaves a null out, and the text beside it; a value replaces each null; null"
        " makes the whole null where any is.",
        "blanks skip": "A text that is empty, or all white space, is left out like a null.",
        "in place": "The new column takes the place of the first of them, and all of them go; without it it is"
        " right after the last of them.",
    },
    examples=(
        Example(
            'join first_name, middle, last_name with " " into potter in place',
            "kiln | first_name | middle | last_name\n007 | Tove | K. | Aslan\n012 | Pim | null | Verhoe\n"
            "031 | null | null | null",
            "kiln | potter\n007 | Tove K. Aslan\n012 | Pim Verhoe\n031 | null",
        ),
        Example(
            'join shelf, kiln with "-" into tag nulls "?"',
            "kiln | shelf\n007 | A\n012 | null\nnull | null",
            "kiln | shelf | tag\n007 | A | A-007\n012 | null | ?-012\nnull | null | null",
        ),
    ),
    notes='For anything freer make has texts with holes: make label = "{last_name}, {first_name} ({kiln})". A hole may'
    ' be optional, with what is beside it: "{item}{" ({kiln})"?}" has no brackets where kiln is null.',
    counters=(*CHANGES, *CONDITION, "separator_held"),
)


@dataclass(frozen=True)
class Join(RowStep):
    placement: Placement
    indices: tuple[int, ...]
    separator: str
    skip: bool
    filler: str | None
    skip_blanks: bool
    condition: Condition | None
    span: SourceSpan

    @property
    def schema(self) -> Schema:
        return self.placement.schema

    def process(self, batch: Batch) -> tuple[Batch, Tally]:
        batch, met, tally = apply_where(batch, self.condition)
        columns = [format_values(batch.columns[index]) for index in self.indices]
        if self.skip_blanks:
            columns = [_without_blank(column) for column in columns]
        try:
            joined = join_columns(columns, self.separator, self.skip, self.filler)
        except TooLargeError as error:
            raise extract_does_not_fit(
                "too-large",
                f"rows {batch.rows[0]:,} to {batch.rows[-1]:,}: {error}",
                "Join fewer columns, or with a shorter text.",
                self.span,
            ) from None
        self._count_separators(columns, met, tally)
        if met is not None:
            joined = pc.if_else(from_numpy(met), joined, pa.scalar(None, pa.string()))
        tally.rows_out = len(batch)
        tally.counts["cells_changed"] += len(joined)
        tally.counts["nulls_made"] += joined.null_count
        return batch.with_columns(self.placement.put(batch.columns, [joined])), tally

    def _count_separators(self, columns: list[TextArray], met: Flags | None, tally: Tally) -> None:
        """Values that hold the separator themselves: where they begin and end cannot be seen any more."""
        if not self.separator.strip(BLANKS):  # names of two words are joined with a space all the time
            return
        for column in columns:
            held = flags_of(pc.match_substring(column, pattern=self.separator))
            tally.counts["separator_held"] += int(np.count_nonzero(held if met is None else held & met))

    def remarks(self, tally: Tally) -> list[str]:
        messages = remarks_on_condition(tally)
        if count := tally.counts["separator_held"]:
            values = "1 value holds" if count == 1 else f"{count:,} values hold"
            messages.append(
                f"{values} {spell_text(self.separator)} already: split at it again, there would be more parts"
            )
        return messages


def bind(statement: Statement, schema: Schema) -> Join:
    words = parse_usage("join", DECLARATION.usage).clause_words()
    selection = select(statement.columns(), schema, "join", matching_names, _JOINED, words, as_said=True)
    if not selection.indices:
        raise wrong_recipe(
            "no-columns",
            "no column is meant, so there is nothing to join",
            "Name the columns.",
            statement.columns().span,
        )
    name = statement.get("into", Name)
    assert name is not None
    separator = statement.text("with")
    assert separator is not None
    new = [(Column(name.value), name.span)]
    placement = placed(statement, schema, selection.indices, new, statement.has("in place"))
    nulls = statement.values.get("nulls")
    literal = statement.values.get("value")
    skip = nulls == "skip" or not statement.has("nulls")
    return Join(
        placement,
        selection.indices,
        separator.value,
        skip,
        None if literal is None else literal.value,
        statement.has("blanks skip"),
        where(statement, schema, DECLARATION.usage),
        statement.span,
    )


def _without_blank(column: TextArray) -> TextArray:
    """The texts, null for one that is empty or all white space."""
    blank = pc.equal(pc.utf8_trim(column, characters=BLANKS), "")
    return pc.if_else(blank, pa.scalar(None, pa.string()), column)


_JOINED = frozenset(ValueType) - {ValueType.LIST, ValueType.OTHER}


def check(statement: Statement) -> list[Mistake]:
    mistakes = [*check_in_place(statement), *check_is_text(statement.values.get("value"), "join")]
    if statement.has("blanks skip") and statement.values.get("nulls", "skip") != "skip":
        mistakes.append(
            Mistake(
                "clauses-conflict",
                "blanks are skipped like nulls, and here nulls are not skipped",
                'Say nulls skip, or nullify the blanks before: nullify "" in COLUMNS.',
                statement.span_of("blanks skip"),
            )
        )
    return mistakes
