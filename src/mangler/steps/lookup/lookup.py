"""`lookup`: columns from another file, by keys; or whether they are there."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa

from mangler.expressions.conversion import shortened
from mangler.expressions.value import failing
from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.keys.group_order import chosen
from mangler.kernels.keys.keys import Codes, folded, keys_of
from mangler.kernels.keys.lookup import KeyTable, key_table
from mangler.kernels.text.fields import with_entries
from mangler.kernels.text.growth import refuse_repeats
from mangler.kernels.text.repeat import numbers_within, repeated, repeated_rows
from mangler.kernels.text.text_view import Flags, TooLargeError
from mangler.kernels.values.format_values import format_values
from mangler.language.declaration import Declaration, Example
from mangler.language.literals import Name
from mangler.language.mistake import Mistake, extract_does_not_fit, wrong_recipe
from mangler.language.source import SourceSpan
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass
from mangler.steps.lookup.near_keys import BETWEEN, NearKeys, told_near
from mangler.steps.shared.columnwise import apply_where, remarks_on_condition, where
from mangler.steps.shared.counters import CHANGES, CONDITION, FAILED
from mangler.steps.shared.failing import Policy, policy_of, remarks_on_failures, take_out
from mangler.steps.shared.key_columns import refuse_lists, said_twice
from mangler.steps.shared.near_pairs import NEAR, NEAR_PAIRS, check_near, warnings_of
from mangler.steps.shared.new_columns import Placement, placed
from mangler.table.batch import Batch
from mangler.table.contract import RowStep
from mangler.table.reference import Reference
from mangler.table.schema import Schema, ValueType
from mangler.table.select import named_columns
from mangler.table.tally import MOST_EXAMPLES, Tally
from mangler.table.types import from_text

if TYPE_CHECKING:
    from mangler.steps.shared.conditions import Condition

DECLARATION = Declaration(
    name="lookup",
    usage="lookup TEXT on {COLUMN [= NAME]}, … [bring {NAME [as NAME]}, …] [anycase] [near NUMBER]"
    " [where CONDITION] [unmatched (null|aside|stop)] [matched (keep|drop|aside)] [several (stop|first|all)]"
    " [nulls TEXTS]",
    meaning="Finds each row's key in another delimited file, and brings columns from there; without bring it checks"
    " that the key is there. The file is found relative to the recipe and read once, as text. Keys match exactly;"
    " null matches nothing and is not a failure. New columns are right after the last column of the key. The examples"
    " look into the sample's kilns.csv.",
    clauses={
        "on": "The columns of the key: kiln where both have that name, kiln = number where the file's is called"
        " number. Where the extract's column is not a text, the file's values are read as its type.",
        "bring": "The file's columns that are wanted, under their own name or another: volume, studio as owner.",
        "anycase": "Keys match in any letter case.",
        "near": NEAR
        + " Of several columns of the key the last one may be near, and must be text; the others match"
        " exactly.",
        "unmatched": "What happens to rows whose key is not there: null, the default with bring,"
        " leaves the new columns null; stop, as it is without bring, delivers nothing and reports the rows; aside sets"
        " the row aside. The summary counts them, and shows the first few keys and what they are near to.",
        "matched": "What happens to rows whose key is there: keep (the default), drop, as by a list of exclusions, or"
        " aside.",
        "several": "What happens to rows whose key the file has in several rows: stop (the default) delivers nothing"
        " and reports them, first takes the first, all makes a row for each.",
        "nulls": "Words that mean null in the file. Without it, those of the recipe's read statement.",
    },
    examples=(
        Example(
            'lookup "kilns.csv" on kiln bring fuel, volume as litres',
            "kiln | result\n007 | good\n7 | good\n003 | cracked\nnull | good",
            "kiln | fuel | litres | result\n007 | electric | 220 | good\n7 | null | null | good\n"
            "003 | gas | 400 | cracked\nnull | null | null | good",
        ),
        Example(
            'lookup "kilns.csv" on burnt_in = kiln, studio unmatched aside',
            "burnt_in | studio\n007 | Clay Works\n007 | Quayside",
            'burnt_in | studio\n007 | Clay Works\naside "kilns.csv has no row for 007 / Quayside"',
        ),
        Example(
            'lookup "kilns.csv" on kiln, studio near 1 bring fuel',
            "kiln | studio\n007 | Clay Work\n007 | Quayside",
            "kiln | studio | fuel\n007 | Clay Work | electric\n007 | Quayside | null",
        ),
        Example(
            'lookup "kilns.csv" on kiln matched drop unmatched null',
            "kiln\n007\n900",
            "kiln\n900",
        ),
    ),
    reads_file="text",
    counters=(*CHANGES, *CONDITION, *FAILED, *NEAR_PAIRS, "null_keys", "several", "unmatched"),
)


@dataclass(frozen=True)
class Lookup(RowStep):
    placement: Placement
    span: SourceSpan
    reference: Reference
    keys: tuple[int, ...]
    """The extract's columns of the key."""
    table: KeyTable
    its_keys: tuple[ColumnArray, ...]
    """The file's columns of the key, as they are compared."""
    brought: tuple[ColumnArray, ...]
    unread: int
    """Values of the file's key that are none of the type of the extract's."""
    anycase: bool
    condition: Condition | None
    unmatched: Policy
    matched: str
    several: str
    near: NearKeys | None = None

    @property
    def ways_out(self) -> str:
        return "unmatched null or aside" + "; or several first or all" * bool(self.brought)

    @property
    def schema(self) -> Schema:
        return self.placement.schema

    def process(self, batch: Batch) -> tuple[Batch, Tally]:
        batch, met, tally = apply_where(batch, self.condition)
        columns = [folded(batch.columns[index], self.anycase) for index in self.keys]
        found = self.table.find(columns)
        has_key = np.ones(len(batch), np.bool_)
        for column in columns:
            if column.null_count:
                has_key &= np.asarray(column.is_valid())
        if met is not None:
            found = np.where(met, found, -1)
        if self.near is not None:
            found = self.near.found(columns, found, has_key if met is None else has_key & met, tally)
        looked = has_key if met is None else has_key & met
        tally.counts["null_keys"] += int(np.count_nonzero(~has_key if met is None else met & ~has_key))
        matches, misses = found >= 0, looked & (found < 0)
        tally.counts["unmatched"] += int(np.count_nonzero(misses))
        self._note(tally, batch, misses)
        batch, found = self._sorted_out(batch, found, matches, misses, tally)
        try:
            return self._brought(batch, found, tally), tally
        except (TooLargeError, pa.ArrowCapacityError) as error:
            raise extract_does_not_fit(
                "too-large",
                f"rows {batch.rows[0]:,} to {batch.rows[-1]:,}: {error}",
                "Each match repeats the other columns: take several first, or drop columns before this step.",
                self.span,
            ) from None

    def _sorted_out(
        self, batch: Batch, found: Codes, matches: Flags, misses: Flags, tally: Tally
    ) -> tuple[Batch, Codes]:
        """The batch without rows that the statement takes out, and where their keys are found."""
        many = np.zeros(len(batch), np.bool_)
        if self.brought and len(self.table.counts):
            many = matches & (self.table.counts[found] > 1)
            tally.counts["several"] += int(np.count_nonzero(many))
        policies = (
            (self.unmatched, self._has_none),
            (Policy("stop" if self.several == "stop" else "keep"), self._has_several),
            (Policy("aside" if self.matched == "aside" else "keep"), self._has_one),
        )
        flags = [misses, many, matches]
        for which, (policy, why) in enumerate(policies):
            if not policy.takes_rows or not flags[which].any():
                continue
            batch, stay = take_out(batch, failing(flags[which], why(batch, found)), policy, tally)
            if stay is not None:
                found, flags = found[stay], [each[stay] for each in flags]
        if self.matched == "drop":
            rest = found < 0
            batch, found = batch.filter(rest), found[rest]
        return batch, found

    def _brought(self, batch: Batch, found: Codes, tally: Tally) -> Batch:
        """The rows with the columns that come from the file; several of a row where all its matches are wanted."""
        if not self.brought:
            tally.rows_out = len(batch)
            return batch
        there = found >= 0
        table = self.table
        starts, counts = (np.append(each, 0)[found] for each in (table.starts, table.counts))
        rows = np.append(table.rows, -1)
        if self.several != "all" or not (counts > 1).any():
            columns = [chosen(column, np.where(there, rows[starts], -1)) for column in self.brought]
            carried, sources = batch.columns, None
        else:
            times = np.maximum(counts, 1)
            refuse_repeats(batch.columns, times)
            sources = np.repeat(np.arange(len(batch)), times)
            at = np.where(there[sources], rows[starts[sources] + numbers_within(times)], -1)
            columns = [
                repeated(column, at) if (at >= 0).all() else chosen(column, at) for column in self.brought
            ]
            carried = repeated_rows(batch.columns, sources)
            tally.rows_added += len(sources) - len(batch)
        numbers = batch.rows if sources is None else batch.rows[sources]
        tally.rows_out = len(numbers)
        tally.counts["cells_changed"] += len(numbers) * len(columns)
        tally.counts["nulls_made"] += sum(column.null_count for column in columns)
        put = with_entries(batch.columns, self.placement.put(carried, columns))
        return Batch(put, numbers, batch.origin)

    # What is reported

    def _key(self, batch: Batch, index: int) -> str:
        cells = (format_values(batch.columns[key].slice(index, 1))[0].as_py() for key in self.keys)
        return BETWEEN.join(map(shortened, cells))

    def _note(self, tally: Tally, batch: Batch, misses: Flags) -> None:
        """Keeps the first few keys that the file does not have."""
        where = np.flatnonzero(misses)
        if not len(where):
            return
        where = where[np.argsort(batch.rows[where], kind="stable")]
        columns = [batch.columns[key].take(from_numpy(where)) for key in self.keys]
        first = where[np.sort(keys_of(columns, len(where)).first)[:MOST_EXAMPLES]]
        tally.note_found((int(batch.rows[index]), self._key(batch, index)) for index in first.tolist())

    def _has_none(self, batch: Batch, found: Codes) -> Callable[[int], str]:  # noqa: ARG002
        return lambda index: f"{self.reference.name} has no row for {self._key(batch, index)}"

    def _has_one(self, batch: Batch, found: Codes) -> Callable[[int], str]:
        def why(index: int) -> str:
            return (
                f"{self.reference.name} has {self._key(batch, index)} in line {self._lines(found[index])[0]}"
            )

        return why

    def _has_several(self, batch: Batch, found: Codes) -> Callable[[int], str]:
        def why(index: int) -> str:
            lines = self._lines(found[index])
            shown = ", ".join(map(str, lines[:3])) + ("" if len(lines) <= 3 else " and more")
            return f"{self.reference.name} has {self._key(batch, index)} in {len(lines)} rows, lines {shown}"

        return why

    def _lines(self, key: int) -> list[int]:
        start = int(self.table.starts[key])
        rows = self.table.rows[start : start + int(self.table.counts[key])]
        lines: list[int] = self.reference.lines[rows].tolist()
        return lines

    def facts(self, tally: Tally) -> list[str]:
        messages = []
        if tally.counts["null_keys"]:
            one = tally.counts["null_keys"] == 1
            rows = "1 row has" if one else f"{tally.counts['null_keys']:,} rows have"
            messages.append(f"{rows} no key, and {'matches' if one else 'match'} nothing")
        if tally.counts["several"] and self.several != "stop":
            rows = (
                "1 row matches" if tally.counts["several"] == 1 else f"{tally.counts['several']:,} rows match"
            )
            messages.append(f"{rows} several rows of {self.reference.name}")
        return messages

    def warnings(self, tally: Tally) -> list[str]:
        return warnings_of(tally)

    def remarks(self, tally: Tally) -> list[str]:
        messages = remarks_on_condition(tally) if self.condition is not None else []
        name = self.reference.name
        if self.matched != "keep":  # by a list of exclusions the wanted rows are not in it
            near = [f'"{key}"{how}' for key in tally.examples if (how := told_near(self.its_keys, key))]
            if near:
                messages.append(f"not in {name}, and nearly so: {', '.join(near)}")
        elif count := tally.counts["unmatched"]:
            rows = "1 row has a key" if count == 1 else f"{count:,} rows have keys"
            shown = ", ".join(f'"{key}"{told_near(self.its_keys, key)}' for key in tally.examples)
            messages.append(f"{rows} that {name} does not have, such as {shown}")
        if self.unread:
            values = "1 value" if self.unread == 1 else f"{self.unread:,} values"
            messages.append(f"{name}: {values} of the key cannot be read as the type of the extract's column")
        if self.reference.unfit:
            count = self.reference.unfit_count
            rows = "1 row of it does" if count == 1 else f"{count:,} rows of it do"
            verb = "is" if count == 1 else "are"
            first = "; ".join(self.reference.unfit[:MOST_EXAMPLES])
            messages.append(f"{name}: {rows} not fit in the table, and {verb} skipped: {first}")
        return [*messages, *remarks_on_failures(tally)]


def bind(statement: Statement, schema: Schema) -> Lookup:
    reference: Reference = statement.values["reference"]
    bring: Sequence[dict[str, Name]] = statement.values.get("name", ())
    pairs: Sequence[dict[str, Name]] = statement.values["column"]
    indices = named_columns([pair["column"] for pair in pairs], schema)
    its_keys = [pair.get("=", pair["column"]) for pair in pairs]
    reference.require([*its_keys, *(item["name"] for item in bring)])
    refuse_lists(schema, indices, statement.span_of("column"))
    unread = 0
    columns = []
    for index, its_key in zip(indices, its_keys, strict=True):
        column, kind = reference.column(its_key.value), schema.columns[index].type
        column = format_values(column)  # the file may have another type than the extract
        if kind is not ValueType.TEXT:
            converted = from_text(column, kind)
            unread += int(np.count_nonzero(converted.failed))
            column = converted.array
        columns.append(folded(column, statement.has("anycase")))
    brought = [reference.schema.columns[reference.schema.names.index(item["name"].value)] for item in bring]
    names = [item.get("as", item["name"]) for item in bring]
    new = [(column.renamed(name.value), name.span) for column, name in zip(brought, names, strict=True)]
    placement = placed(statement, schema, indices, new, in_place=False)
    edits, table = statement.number("near"), key_table(columns, len(reference))
    if edits is not None and schema.columns[indices[-1]].type is not ValueType.TEXT:
        column = schema.columns[indices[-1]]
        raise wrong_recipe(
            "wrong-type",
            f'near compares texts, and "{column.name}" is {column.type}',
            "Leave near out, or put the column that may be near last.",
            statement.span_of("near"),
        )
    matched = statement.values.get("matched", "keep")
    is_check = not bring and matched == "keep"
    return Lookup(
        placement,
        statement.span,
        reference,
        tuple(indices),
        table,
        tuple(columns),
        tuple(reference.column(item["name"].value) for item in bring),
        unread,
        statement.has("anycase"),
        where(statement, schema, DECLARATION.usage),
        policy_of(statement, "unmatched", "stop" if is_check else "null"),
        matched,
        statement.values.get("several", "stop"),
        None if edits is None else NearKeys.of(table, columns, edits),
    )


def check(statement: Statement) -> list[Mistake]:
    bring = statement.values.get("name", ())
    mistakes = said_twice(
        [item.get("as", item["name"]) for item in bring], "is brought twice", "Give each its own name."
    )
    mistakes += check_near(statement)
    if bring and statement.values.get("matched", "keep") != "keep":
        message = f"matched {statement.values['matched']} takes the rows away that something is brought to"
        mistakes.append(
            Mistake(
                "clause-needed",
                message,
                "Take bring out, or write two statements.",
                statement.span_of("matched"),
            )
        )
    if statement.has("several") and not bring:
        message = "several says which of several rows something is brought from, and nothing is brought"
        mistakes.append(
            Mistake(
                "clause-needed", message, "Leave it out, or say what to bring.", statement.span_of("several")
            )
        )
    return mistakes
