"""`map`: whole values by a table."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.expressions.conversion import shortened
from mangler.expressions.reasons import ByCell
from mangler.expressions.value import Failure, failing
from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.keys.near import NearIndex
from mangler.kernels.text.dictionary import as_dictionary
from mangler.kernels.text.patterns import values_recur
from mangler.kernels.text.text_view import Flags
from mangler.kernels.text.white_space import trim
from mangler.kernels.values.format_values import format_values
from mangler.language.declaration import Declaration, Example
from mangler.language.literals import Name, Text
from mangler.language.mistake import Mistake, nearest, wrong_recipe
from mangler.language.source import SourceSpan
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.steps.shared.checks import check_is_text
from mangler.steps.shared.columnwise import apply_where, note_examples, remarks_on_condition, such_as, where
from mangler.steps.shared.counters import CHANGES, CONDITION, FAILED
from mangler.steps.shared.failing import Policy, policy_of, remarks_on_failures
from mangler.steps.shared.matching import without_outer_blanks
from mangler.steps.shared.near_pairs import NEAR, NEAR_PAIRS, check_near, note_pairs, warnings_of
from mangler.steps.shared.new_columns import text_column
from mangler.steps.shared.new_values import put_in
from mangler.table.batch import Batch
from mangler.table.contract import RowStep
from mangler.table.reference import Reference
from mangler.table.schema import Schema
from mangler.table.tally import Tally

if TYPE_CHECKING:
    from mangler.steps.shared.conditions import Condition

MOST_PAIRS = 1_000_000

DECLARATION = Declaration(
    name="map",
    usage="map COLUMN ({TEXT to VALUE}, …|from TEXT [NAMES]) [anycase] [where CONDITION]"
    " [near NUMBER] [unmatched (keep|null|aside|stop|VALUE)] [nulls TEXTS]",
    meaning="Puts other values in the place of whole cells, by a table of pairs; white space around a cell is ignored."
    " Null stays null. What is put in is a text or null.",
    clauses={
        "from": "A delimited file with the table, found relative to the recipe: its first two columns, or the two that"
        " are named, the one to look in first. A key that is there twice is refused.",
        "anycase": "Values match in any letter case.",
        "near": NEAR,
        "unmatched": "What happens to values that the table does not have: keep (the default) leaves them, null and a"
        " text put that in their place, aside sets the row aside, stop delivers nothing. The summary counts them and"
        " shows the first few, with what they are near to.",
        "nulls": "Words that mean null in the file that from names. Without it, those of the recipe's read"
        " statement.",
    },
    examples=(
        Example(
            'map result "good" to "A", "fair" to "B", "cracked" to null anycase unmatched "?"',
            'result\n" Good "\ncracked\nodd\nnull',
            "result\nA\nnull\n?\nnull",
        ),
        Example(
            'map studio "Clay Works" to "CW", "Quayside" to "QS" near 2',
            "studio\nClay Wroks\nquay side\nHill Pottery",
            "studio\nCW\nQS\nHill Pottery",
        ),
        Example(
            'map cone "6" to "06" unmatched keep',
            "cone\n6\n04",
            "cone\n06\n04",
        ),
    ),
    reads_file="from",
    counters=(*CHANGES, *CONDITION, *FAILED, *NEAR_PAIRS, "unmatched"),
)


@dataclass(frozen=True)
class Table:
    """Keys as they are compared, and the value of each; `spelled` keeps the keys for messages."""

    keys: Any
    values: ColumnArray
    spelled: tuple[str, ...]
    anycase: bool

    def look_up(self, cells: ColumnArray) -> ColumnArray:
        """The place of each cell's value among the keys; null where it is none."""
        return pc.index_in(as_compared(cells, self.anycase), value_set=self.keys)


@dataclass(frozen=True)
class Map(RowStep):
    schema: Schema
    index: int
    table: Table
    policy: Policy
    condition: Condition | None
    near: NearIndex | None = None

    def process(self, batch: Batch) -> tuple[Batch, Tally]:
        batch, met, tally = apply_where(batch, self.condition)
        old = batch.columns[self.index]
        out, unmatched = self._mapped(old)
        if self.near is not None:
            out, unmatched = self._nearest(self.near, old, out, unmatched, met, tally)
        if met is not None:
            out = pc.if_else(from_numpy(met), out, old)
            unmatched &= met
        tally.counts["unmatched"] += int(np.count_nonzero(unmatched))
        note_examples(tally, old, unmatched)
        failures: tuple[Failure, ...] = ()
        if self.policy.takes_rows:
            failures = failing(
                unmatched, ByCell(old, lambda text: f'"{shortened(text)}" is not in the table of map')
            )
        return put_in(batch, {self.index: out}, failures, self.policy, tally), tally

    def _nearest(
        self,
        near: NearIndex,
        old: ColumnArray,
        out: ColumnArray,
        unmatched: Flags,
        met: Flags | None,
        tally: Tally,
    ) -> tuple[ColumnArray, Flags]:
        """The new cells with the value of the nearest key where there is one, and what is unmatched still."""
        asked = unmatched if met is None else unmatched & met
        if not asked.any():
            return out, unmatched
        encoded = as_dictionary(old.filter(from_numpy(asked)))
        values = encoded.dictionary.to_pylist()
        keys = [near.nearest(value, None) for value in values]
        codes = np.asarray(encoded.indices)
        counts = np.bincount(codes, minlength=len(values)).tolist()
        pairs = [
            (value, key, count)
            for value, key, count in zip(values, keys, counts, strict=True)
            if key is not None
        ]
        spelled = self.table.spelled
        note_pairs(
            tally,
            [pair[0] for pair in pairs],
            [spelled[pair[1]] for pair in pairs],
            [pair[2] for pair in pairs],
        )
        places = np.full(len(old), -1, np.int64)
        places[asked] = np.array([-1 if key is None else key for key in keys], np.int64)[codes]
        took = places >= 0
        mapped = self.table.values.take(from_numpy(places, nulls=~took))
        return pc.if_else(from_numpy(took), mapped, out), unmatched & ~took

    def warnings(self, tally: Tally) -> list[str]:
        return warnings_of(tally)

    def _mapped(self, column: ColumnArray) -> tuple[ColumnArray, Flags]:
        """The new cells, and which values the table does not have; each distinct value is looked up once."""
        if not values_recur(column):
            return self._look_up(column)
        encoded = as_dictionary(column)
        values, unmatched = self._look_up(encoded.dictionary)
        codes = np.asarray(encoded.indices.fill_null(len(unmatched)))
        flags: Flags = np.append(unmatched, False)[codes]
        return values.take(encoded.indices), flags

    def _look_up(self, cells: ColumnArray) -> tuple[ColumnArray, Flags]:
        positions = self.table.look_up(cells)
        found = np.asarray(positions.is_valid())
        unmatched: Flags = ~found & np.asarray(cells.is_valid())
        mapped = self.table.values.take(positions)
        if not unmatched.any():
            return mapped, unmatched
        other = cells
        if self.policy.name == "null":
            other = pa.nulls(len(cells), pa.string())
        elif self.policy.literal is not None:
            other = pa.repeat(pa.scalar(self.policy.literal.value, pa.string()), len(cells))
        return pc.if_else(from_numpy(unmatched), other, mapped), unmatched

    def remarks(self, tally: Tally) -> list[str]:
        messages = remarks_on_condition(tally)
        if count := tally.counts["unmatched"]:
            cells = "1 cell holds a value" if count == 1 else f"{count:,} cells hold values"
            near = [
                f'"{example}" is near "{close[0]}"'
                for example in tally.examples
                if (close := nearest(example, self.table.spelled))
            ]
            messages.append(
                f"{cells} that the table does not have{such_as(tally)}{'; ' * bool(near)}{', '.join(near)}"
            )
        if not tally.changed_anything and not tally.counts["unmatched"] and tally.rows_in:
            messages.insert(0, "changed nothing: the values are mapped to themselves, or null")
        return [*messages, *remarks_on_failures(tally)]


def as_compared(texts: ColumnArray, anycase: bool) -> ColumnArray:
    """Without white space around, and in one letter case where case does not count."""
    bare = trim(texts).array
    return pc.utf8_lower(pc.utf8_upper(bare)) if anycase else bare


def bind(statement: Statement, schema: Schema) -> Map:
    name = statement.get("column", Name)
    assert name is not None
    index = text_column(name, schema, "map")
    anycase = statement.has("anycase")
    pairs = pairs_of(statement)
    keys = pa.array([key for key, _ in pairs], pa.string())
    values = pa.array([value for _, value in pairs], pa.string())
    table = Table(as_compared(keys, anycase), values, tuple(key for key, _ in pairs), anycase)
    edits = statement.number("near")
    return Map(
        schema,
        index,
        table,
        policy_of(statement, "unmatched", "keep"),
        where(statement, schema, DECLARATION.usage),
        None if edits is None else NearIndex(table.spelled, [None] * len(pairs), edits),
    )


def pairs_of(statement: Statement) -> Sequence[tuple[str, str | None]]:
    """The table, as it is in the statement or in the file that the statement names."""
    reference = statement.get("reference", Reference)
    if reference is not None:
        text = statement.get("from", Text)
        assert text is not None
        return _pairs(reference, statement, text.span)
    return [(item["text"].value, item["to"].value) for item in statement.values["text"]]


def _pairs(
    reference: Reference, statement: Statement, span: SourceSpan
) -> tuple[tuple[str, str | None], ...]:
    """Keys and values in the order of the file. A key twice, or a row without a place, is refused with its lines."""
    named = statement.names("names") or ()
    reference.require(named)
    if not named and len(reference.columns) < 2:
        raise wrong_recipe(
            "too-few-columns",
            f"{reference.name} has one column, and map needs two",
            "Name another file.",
            span,
        )
    if reference.unfit:
        raise wrong_recipe(
            "row-unfit", f"{reference.name}, {reference.unfit[0]}", "Correct this row of the table.", span
        )
    if len(reference) > MOST_PAIRS:
        raise wrong_recipe(
            "too-many-keys", f"{reference.name} has more than {MOST_PAIRS:,} keys", "Take fewer.", span
        )
    columns = [reference.column(name.value) for name in named] or reference.columns[:2]
    keys, values = map(format_values, columns)
    compared = as_compared(keys, statement.has("anycase")).to_pylist()
    pairs: list[tuple[str, str | None]] = []
    lines: dict[str, int] = {}
    for line, key, bare, value in zip(
        reference.lines.tolist(), keys.to_pylist(), compared, values.to_pylist(), strict=True
    ):
        if key is None:
            continue  # null matches nothing
        if bare in lines:
            raise wrong_recipe(
                "key-twice",
                f'{reference.name} has "{key}" twice, in lines {lines[bare]} and {line}',
                "Take one of them out: which is meant cannot be known.",
                span,
            )
        lines[bare] = line
        pairs.append((key, value))
    return tuple(pairs)


def check(statement: Statement) -> list[Mistake]:
    mistakes = check_near(statement)
    seen: dict[str, Text] = {}
    for item in statement.values.get("text", ()):
        key: Text = item["text"]
        bare = without_outer_blanks(key.value)
        folded = bare.upper().lower() if statement.has("anycase") else bare
        if folded in seen:
            mistakes.append(
                Mistake(
                    "said-twice",
                    f"{key.span.text} is there twice in this table",
                    "Take one of the pairs out.",
                    key.span,
                )
            )
        seen[folded] = key
        mistakes += check_is_text(item["to"], "map")
    if statement.has("nulls") and not statement.has("from"):
        mistakes.append(
            Mistake(
                "clause-without-effect",
                "nulls says what means null in a file, and this map has its table here",
                'Write from "FILE", or "-" to null in the table.',
                statement.span_of("nulls"),
            )
        )
    if statement.has("value"):
        mistakes += check_is_text(statement.values["value"], "map")
    names = statement.names("names") or ()
    if names and len(names) != 2:
        mistakes.append(
            Mistake(
                "wrong-number-of-names",
                "two columns are named: where to look, and what to take",
                'from "file.csv" code, name',
                names[0].span,
            )
        )
    return mistakes
