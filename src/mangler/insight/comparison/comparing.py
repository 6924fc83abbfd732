"""Compares two tables: columns, rows and cells, whatever their formats are and however large they are."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import numpy as np
import numpy.typing as npt
import pyarrow as pa

from mangler.addresses import without_password
from mangler.insight.comparison.cells import ColumnDifferences, differing
from mangler.insight.comparison.comparison import Comparison, LoneRow
from mangler.insight.comparison.keys import Key, KeyUse, best_of, candidates, require_key
from mangler.insight.comparison.matching import Matching, Places, by_content, by_key
from mangler.insight.comparison.side import Progress, Side
from mangler.kernels.arrow import from_numpy
from mangler.kernels.keys.row_hashes import Hashes, combined, row_hashes, whole_cell_hashes
from mangler.kernels.text.text_view import TextArray
from mangler.language.columns import ColumnSelector
from mangler.language.mistake import enumerate_names, extract_does_not_fit, nearest
from mangler.recipes.options import column_list
from mangler.steps.shared.columnwise import matching_names
from mangler.table.batch import Batch, RowNumbers
from mangler.table.memory_budget import DEFAULT_BUDGET, MemoryBudget
from mangler.table.partitioned_rows import PartitionedRows
from mangler.table.schema import Schema
from mangler.table.select import quote_name, select
from mangler.table.stored_types import describe_type

ROWS_AT_ONCE = 50_000
"""Pairs of rows that are held against each other at a time."""
MOST_ROWS_SHOWN = 20
"""Rows that only one table has, of which the cells are kept."""


def compare(
    before: str | Path,
    after: str | Path,
    on: Sequence[str] = (),
    columns: Sequence[str] | ColumnSelector | None = None,
    in_order: bool = False,
    memory: int | None = None,
    progress: Progress | None = None,
) -> Comparison:
    """What differs between two tables.

    `on` names the columns by which rows belong together. Without it a key is looked for; without one, or with
    `in_order`, rows belong together by their content and their order. `columns` names what is compared. `memory`, in
    bytes, is what rows may take that differ; others wait in a temporary file. Raises a Refusal where the tables have no
    column in common, where `on` is no key, or a file makes trouble.
    """
    if columns is not None and not isinstance(columns, ColumnSelector):
        columns = column_list(", ".join(quote_name(name) for name in columns))
    one, other = (Side.open(without_password(str(address)), progress) for address in (before, after))
    return _Comparer((one, other), columns, memory or DEFAULT_BUDGET).compare(tuple(on), in_order)


class _Comparer:
    def __init__(self, sides: tuple[Side, Side], columns: ColumnSelector | None, memory: int) -> None:
        self.sides = sides
        self.memory = memory
        self.result = Comparison(sides[0].name, sides[1].name)
        self._compare_columns(columns)
        self.rows: list[npt.NDArray[np.integer]] = []
        """The number of each row in its extract."""

    @property
    def names(self) -> list[str]:
        return self.result.columns

    def _compare_columns(self, chosen: ColumnSelector | None) -> None:
        result = self.result
        schemas = [side.schema for side in self.sides]
        every = Schema(tuple({column.name: column for s in schemas for column in s.columns}.values()))
        wanted = set(every.names)
        if chosen is not None:
            wanted = {
                every.names[index] for index in select(chosen, every, "compare", matching_names).indices
            }
        one, other = ([name for name in schema.names if name in wanted] for schema in schemas)
        result.columns = [name for name in one if name in other]
        result.gone = [name for name in one if name not in other]
        result.come = [name for name in other if name not in one]
        result.is_reordered = result.columns != [name for name in other if name in one]
        types = [{column.name: describe_type(column) for column in schema.columns} for schema in schemas]
        result.retyped = [
            (name, types[0][name], types[1][name])
            for name in result.columns
            if types[0][name] != types[1][name] and self._both_tell_types
        ]
        if not result.columns:
            raise extract_does_not_fit(
                "no-common-column",
                f"{result.before} and {result.after} have no column in common",
                f"The first has {enumerate_names(one, 5)}; the second {enumerate_names(other, 5)}.",
            )

    @property
    def _both_tell_types(self) -> bool:
        """Whether both have columns that are not text: in text files all are."""
        return all(any(str(column.type) != "text" for column in side.schema.columns) for side in self.sides)

    def compare(self, on: Key, in_order: bool) -> Comparison:
        result = self.result
        for name in on:
            self._require_common(name)
        tried = [on] if on else [] if in_order else candidates(self.sides, self.names)
        contents, uses = self._hashed(tried)
        if on:
            require_key(uses[0], self.sides, self.names)
        use = uses[0] if on else best_of(uses)
        result.rows_before, result.rows_after = len(contents[0]), len(contents[1])
        if use is not None:
            result.key, result.key_was_found = use.key, not on
            matching = by_key((use.before, use.after), contents)
        else:
            matching = by_content(contents, self._halves)
        del contents, uses, use
        self._note(matching)
        return result

    def _require_common(self, name: str) -> None:
        if name in self.names:
            return
        lacking = next((side for side in self.sides if name not in side.schema.names), None)
        close = nearest(name, self.names)
        raise extract_does_not_fit(
            "unknown-column",
            f'{lacking.name} has no column "{name}"'
            if lacking
            else f'"{name}" is not among the columns compared',
            f"Nearest: {close[0]}." if close else f"Both have {enumerate_names(self.names, 8)}.",
        )

    def _hashed(self, keys: Sequence[Key]) -> tuple[tuple[Hashes, Hashes], list[KeyUse]]:
        """Numbers for the content of all rows of both tables, and for their keys."""
        places = [[self.names.index(name) for name in key] for key in keys]

        def work(texts: list[TextArray], rows: RowNumbers) -> list[Hashes]:
            cells = [whole_cell_hashes(text) for text in texts]
            chosen = [cells, *([cells[place] for place in one] for one in places)]
            return [combined(one, len(rows)) for one in chosen]

        contents, found, unfit = [], [], []
        for side in self.sides:
            pieces, numbers, left_out = [], [], 0
            for rows, more, hashes in side.scan(self.names, work):
                pieces.append(hashes)
                numbers.append(_narrow(rows))
                left_out += more
            nothing = np.empty(0, np.uint64)
            every = []
            for index in range(1 + len(keys)):
                every.append(np.concatenate([nothing, *(piece[index] for piece in pieces)]))
                for piece in pieces:  # nothing is held twice for longer than it takes
                    piece[index] = nothing
            contents.append(every[0])
            found.append(every[1:])
            self.rows.append(np.concatenate([np.empty(0, np.uint32), *numbers]))
            unfit.append(left_out)
        self.result.unfit = unfit[0], unfit[1]
        uses = [KeyUse(key, one, other) for key, one, other in zip(keys, *found, strict=True)]
        return (contents[0], contents[1]), uses

    def _halves(self, before: Places, after: Places) -> list[tuple[Hashes, Hashes]]:
        """Numbers for the first and for the second half of the columns, of rows at these places."""
        middle = len(self.names) // 2
        if not middle:
            return []
        found: list[list[Hashes]] = []
        for side, places in zip(self.sides, (before, after), strict=True):
            start, pieces = 0, []
            for rows, _, texts in side.scan(self.names, lambda texts, _: texts):
                first, last = np.searchsorted(places, (start, start + len(rows)))
                chosen = from_numpy(places[first:last] - start)
                taken = [text.take(chosen) for text in texts]
                halves = [row_hashes(half, last - first) for half in (taken[:middle], taken[middle:])]
                pieces.append(halves)
                start += len(rows)
            found.append([np.concatenate([half[number] for half in pieces]) for number in (0, 1)])
        return list(zip(*found, strict=True))

    # Cells

    def _note(self, matching: Matching) -> None:
        result = self.result
        result.same = int(np.count_nonzero(matching.same))
        result.moved = matching.moved
        before, after = matching.changed
        gone, come = matching.gone, matching.come
        result.differences = [ColumnDifferences(name) for name in self.names]
        strangers = self._note_changed(before, after, gone[:MOST_ROWS_SHOWN], come[:MOST_ROWS_SHOWN])
        result.changed = len(before) - strangers
        result.rows_gone, result.rows_come = len(gone) + strangers, len(come) + strangers
        result.differences = [one for one in result.differences if one.cells]

    def _note_changed(self, before: Places, after: Places, gone: Places, come: Places) -> int:
        """Counts how pairs of rows differ, and keeps rows that only one table has; how many pairs are none.

        Rows wait in a file, where they are many, so that those of a pair meet.
        """
        if not len(before) and not len(gone) and not len(come):
            return 0
        parts = max(1, -(-len(before) // ROWS_AT_ONCE))
        with_strangers = not self.result.key
        budget = MemoryBudget(self.memory)
        try:
            held = []
            for side, rows, places, alone, lone in zip(
                self.sides,
                self.rows,
                (before, after),
                (gone, come),
                (self.result.lone_before, self.result.lone_after),
                strict=True,
            ):
                kept = PartitionedRows(budget, parts, budget.memory_limit // 4)
                self._deal_out(side, rows, places, alone, lone, kept)
                held.append(kept)
            strangers = 0
            for part in range(parts):
                strangers += self._compare_part(held, part, before, after, with_strangers)
            return strangers
        finally:
            budget.close()

    def _deal_out(
        self,
        side: Side,
        numbers: npt.NDArray[np.integer],
        places: Places,
        alone: Places,
        lone: list[LoneRow],
        kept: PartitionedRows,
    ) -> None:
        """The rows of pairs to the parts of their pairs, numbered by these; rows that stand alone are kept."""
        order = np.argsort(places, kind="stable")
        ordered = places[order]
        start = 0
        for rows, _, texts in side.scan(self.names, lambda texts, _: texts):
            end = start + len(rows)
            first, last = np.searchsorted(ordered, (start, end))
            if last > first:
                chosen = from_numpy(ordered[first:last] - start)
                columns = tuple(text.take(chosen) for text in texts)
                pairs = order[first:last]
                kept.add(Batch(columns, pairs, kept.origin), pairs // ROWS_AT_ONCE)
            for place in alone[(alone >= start) & (alone < end)].tolist():
                cells = tuple(text[place - start].as_py() for text in texts)
                lone.append(LoneRow(int(numbers[place]), cells))
            start = end

    def _compare_part(
        self, held: Sequence[PartitionedRows], part: int, before: Places, after: Places, with_strangers: bool
    ) -> int:
        """Holds the pairs of one part against each other; how many of them share no cell, and so are no pairs."""
        sides = [_in_pairs(list(one.part(part)), len(self.names)) for one in held]
        pairs = sides[0][1]
        if not len(pairs):
            return 0
        differ = [differing(one, other) for one, other in zip(sides[0][0], sides[1][0], strict=True)]
        strange = np.zeros(len(pairs), bool)
        if with_strangers and len(self.names) > 1:
            strange = _strange(sides[0][0], sides[1][0], differ)
            self._keep_strangers(
                pairs[strange], [[c.filter(from_numpy(strange)) for c in s[0]] for s in sides], before, after
            )
        rows, rows_now = self.rows[0][before[pairs]], self.rows[1][after[pairs]]
        keys = [self.names.index(name) for name in self.result.key]
        for index, found in enumerate(self.result.differences):
            where = np.flatnonzero(differ[index] & ~strange)
            if len(where):
                chosen = from_numpy(where)
                found.note(
                    sides[0][0][index].take(chosen),
                    sides[1][0][index].take(chosen),
                    rows[where],
                    rows_now[where],
                    [sides[0][0][key].take(chosen) for key in keys],
                )
        return int(np.count_nonzero(strange))

    def _keep_strangers(
        self, pairs: Places, columns: list[list[TextArray]], before: Places, after: Places
    ) -> None:
        lones = (self.result.lone_before, self.result.lone_after)
        for lone, own, numbers, places in zip(lones, columns, self.rows, (before, after), strict=True):
            for index, pair in enumerate(pairs[: max(0, MOST_ROWS_SHOWN - len(lone))].tolist()):
                lone.append(
                    LoneRow(int(numbers[places[pair]]), tuple(column[index].as_py() for column in own))
                )
            lone.sort(key=lambda one: one.row)


def _narrow(rows: RowNumbers) -> npt.NDArray[np.integer]:
    """The same numbers in half the room, where they are small enough."""
    return rows.astype(np.uint32) if not len(rows) or rows[-1] < 1 << 32 else rows


def _in_pairs(batches: list[Batch], width: int) -> tuple[list[TextArray], Places]:
    """The rows of a part in the order of their pairs."""
    if not batches:
        return [pa.array([], pa.string())] * width, np.empty(0, np.int64)
    pairs = np.concatenate([batch.rows for batch in batches])
    order = np.argsort(pairs, kind="stable")
    taken = from_numpy(order)
    columns = [
        pa.concat_arrays([batch.columns[index] for batch in batches]).take(taken) for index in range(width)
    ]
    return columns, pairs[order]


def _strange(
    before: Sequence[TextArray], after: Sequence[TextArray], differ: Sequence[npt.NDArray[np.bool_]]
) -> npt.NDArray[np.bool_]:
    """Pairs that have less than half of their cells in common, where one of the two is not null: they are no pairs."""
    equal, filled = np.zeros(len(differ[0]), np.int64), np.zeros(len(differ[0]), np.int64)
    for one, other, flags in zip(before, after, differ, strict=True):
        there = np.asarray(one.is_valid()) | np.asarray(other.is_valid())
        filled += there
        equal += there & ~flags
    found: npt.NDArray[np.bool_] = 2 * equal < filled
    return found
