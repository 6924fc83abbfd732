"""What a step did to a batch: the cells, columns and rows that it touched, before and after."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import field
from typing import Any

import numpy as np
import pyarrow.compute as pc

from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.language.tables import Cell
from mangler.late_dataclass import dataclass
from mangler.table.batch import Batch
from mangler.table.schema import Schema
from mangler.table.small import cells_of

MOST_KEPT = 1000
"""Different changes, and rows, that are kept of a trial."""


@dataclass
class CellChange:
    """A cell that changed, values of any type as text: the first such, and how many changed alike."""

    row: int
    column: str
    before: Cell
    after: Cell
    times: int = 1


@dataclass(frozen=True)
class ShapedRow:
    """A row of a step that changes the table's shape. `before` and `after` hold the touched columns by name.

    A `new` row came from an extract row that has another row already; a `removed` one is gone.
    """

    row: int
    kind: str
    before: dict[str, Cell]
    after: dict[str, Cell]


@dataclass
class Differences:
    """All that a step touched in the batches seen so far."""

    come: tuple[str, ...] = ()
    gone: tuple[str, ...] = ()
    renamed: tuple[tuple[str, str], ...] = ()
    retyped: tuple[tuple[str, str, str], ...] = ()
    """Columns of another type than before: name, old and new type."""
    order: tuple[str, ...] = ()
    """The names in their new order, where only that changed."""
    cells: dict[tuple[str, Cell, Cell], CellChange] = field(default_factory=dict)
    rows: list[ShapedRow] = field(default_factory=list)
    rows_touched: int = 0

    @property
    def any(self) -> bool:
        return bool(self.come or self.gone or self.renamed or self.retyped or self.order or self.rows_touched)

    def note(self, before: Batch, after: Batch, schemas: tuple[Schema, Schema], named: Sequence[str]) -> None:
        """Adds what happened between two batches; `named` are columns that the step mentions."""
        old, new = schemas
        if not self.renamed and not self.come and not self.gone:
            self._note_columns(before, after, old, new)
        same_rows = len(before) == len(after) and np.array_equal(before.rows, after.rows)
        columns = [
            (name, before.columns[old.names.index(name)], after.columns[index])
            for index, name in enumerate(new.names)
            if name in old.names
        ]
        if same_rows and not self.come:
            self._note_cells(columns, before.rows)
        elif same_rows:
            wanted = _in_order(
                old.names, {*self.gone, *named, *(c[0] for c in columns if not _equal(c[1], c[2]).all())}
            )
            self._note_shape(before, after, old, new, wanted)
        else:
            first = [name for name in named if name in old.names]  # what the step is about comes first
            rest = [name for name in old.names if name not in first]
            self._note_shape(before, after, old, new, [*first, *rest])

    def _note_columns(self, before: Batch, after: Batch, old: Schema, new: Schema) -> None:
        come = [name for name in new.names if name not in old.names]
        gone = [name for name in old.names if name not in new.names]
        by_array = {id(before.columns[old.names.index(name)]): name for name in reversed(gone)}
        renamed = []
        for name in come:
            source = by_array.pop(id(after.columns[new.names.index(name)]), None)
            if source is not None:  # the very same column under another name
                renamed.append((source, name))
        left, taken = {name for name, _ in renamed}, {name for _, name in renamed}
        self.come = tuple(name for name in come if name not in taken)
        self.gone = tuple(name for name in gone if name not in left)
        self.renamed = tuple(renamed)
        types = {column.name: str(column.type) for column in old.columns}
        self.retyped = tuple(
            (column.name, types[column.name], str(column.type))
            for column in new.columns
            if types.get(column.name, column.type) != column.type
        )
        stayed = [name for name in old.names if name in new.names]
        if stayed != [name for name in new.names if name in old.names]:
            self.order = tuple(new.names)

    def _note_cells(self, columns: list[tuple[str, ColumnArray, ColumnArray]], rows: Any) -> None:
        any_touched = np.zeros(len(rows), bool)
        for name, old, new in columns:
            if old is new:  # most columns of a wide table
                continue
            touched = ~_equal(old, new)
            where = np.flatnonzero(touched)
            if not len(where):
                continue
            indices = from_numpy(where)
            pairs = zip(where.tolist(), cells_of(old.take(indices)), cells_of(new.take(indices)), strict=True)
            for index, one, other in pairs:
                if one == other:  # the same to the eye, in another type
                    touched[index] = False
                    continue
                key = (name, one, other)
                known = self.cells.get(key)
                if known is not None:
                    known.times += 1
                elif len(self.cells) < MOST_KEPT:
                    self.cells[key] = CellChange(int(rows[index]), name, one, other)
            any_touched |= touched
        self.rows_touched += int(np.count_nonzero(any_touched))

    def _note_shape(self, before: Batch, after: Batch, old: Schema, new: Schema, wanted: list[str]) -> None:
        """Rows one by one, those of the same extract row compared with each other."""
        shown = [name for name in new.names if name in wanted or name in self.come]
        sources = _by_row(before)
        results = _by_row(after)
        for row in dict.fromkeys([*sources, *results]):
            ours, theirs = sources.get(row, []), results.get(row, [])
            for ordinal in range(max(len(ours), len(theirs))):
                one = _cells(before, old, wanted, ours[ordinal]) if ordinal < len(ours) else {}
                other = _cells(after, new, shown, theirs[ordinal]) if ordinal < len(theirs) else {}
                kind = "new" if ordinal >= len(ours) else "removed" if ordinal >= len(theirs) else "changed"
                if kind == "changed" and len(ours) == len(theirs) and one == other:
                    continue
                self.rows_touched += 1
                if len(self.rows) < MOST_KEPT:
                    self.rows.append(ShapedRow(row, kind, one, other))


def _equal(old: ColumnArray, new: ColumnArray) -> Any:
    """Which cells are as they were; null is as null was."""
    if old is new:
        return np.ones(len(old), bool)
    if old.type != new.type:
        return np.zeros(len(old), bool)
    nulls = pc.and_(old.is_null(), new.is_null())
    same = pc.fill_null(pc.equal(old, new), False)
    return pc.or_(nulls, same).to_numpy(zero_copy_only=False)


def _in_order(names: Sequence[str], wanted: set[str]) -> list[str]:
    return [name for name in names if name in wanted]


def _by_row(batch: Batch) -> dict[int, list[int]]:
    found: dict[int, list[int]] = {}
    for index, row in enumerate(batch.rows.tolist()):
        found.setdefault(row, []).append(index)
    return found


def _cells(batch: Batch, schema: Schema, names: Sequence[str], index: int) -> dict[str, Cell]:
    return {name: cells_of(batch.columns[schema.names.index(name)].slice(index, 1))[0] for name in names}
