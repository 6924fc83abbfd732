"""Texts that a spreadsheet would run as formulas, and the mark in front that keeps it from doing so.

A cell is a formula there when its text starts with `=`, `@`, a tab or a line break, or with `+` or `-` before something
other than a number (the list that the trade calls CSV injection). A `'` in front makes it a text. Texts that start with
such marks already get one more, so that taking one off gives back what was there.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.arrow import ColumnArray, from_numpy
from mangler.kernels.text.fields import FieldFacts, entries_of, known_of
from mangler.kernels.text.openings import GUARD, RISKY, RISKY_OR_GUARDED, opened_by
from mangler.kernels.text.patterns import flags_of, matches
from mangler.kernels.text.text_view import Flags, Positions, TextArray, view
from mangler.kernels.values.format_values import format_values
from mangler.table.batch import Batch

MOST_NAMED = 4
"""Columns that a warning names."""
STARTS_FORMULA = r"^'*[=@\t\r\n]"
STARTS_SIGNED = r"^'*[+-]."
NUMBER = r"^'*[+-][.,]?[0-9][0-9.,]*(?:[eE][+-]?[0-9]+)? ?%?$"
"""With its sign, and behind marks. `-5`, `+1,200.50` and `-1e9` are numbers; `-` alone is nothing."""


def formulas_in(array: ColumnArray, guarded_too: bool = False) -> Flags | None:
    """Which texts would run as formulas, with `guarded_too` also those behind a mark; None where there is none."""
    if not pa.types.is_string(array.type) or not len(array):
        return None
    where = _but_lone_signs(array, opened_by(array, RISKY_OR_GUARDED if guarded_too else RISKY))
    if not len(where):
        return None
    flags = np.zeros(len(array), np.bool_)
    texts = array.take(from_numpy(where))
    signed = matches(texts, STARTS_SIGNED) & ~matches(texts, NUMBER)
    flags[where] = matches(texts, STARTS_FORMULA) | signed
    return flags if flags.any() else None


def _but_lone_signs(array: TextArray, where: Positions) -> Positions:
    """Without cells that are a sign and nothing else: in many files that means null, and patterns cost more to try."""
    if not len(where):
        return where
    cells = view(array)
    opener = cells.data[cells.starts[where]]
    kept: Positions = where[(cells.lengths[where] > 1) | ((opener != ord("-")) & (opener != ord("+")))]
    return kept


def with_guard(array: ColumnArray) -> tuple[ColumnArray, int]:
    """The texts with a mark before what would run as a formula, and how many got one."""
    flags = formulas_in(array, guarded_too=True)
    if flags is None:
        return array, 0
    marked = pc.binary_join_element_wise(GUARD, array, "")
    return pc.if_else(from_numpy(flags), marked, array), int(np.count_nonzero(flags))


def without_guard(array: ColumnArray) -> ColumnArray:
    """The texts without the mark that `with_guard` puts in front."""
    flags = formulas_in(array, guarded_too=True)
    if flags is None:
        return array
    marked = flags & flags_of(pc.starts_with(array, GUARD))
    return pc.if_else(from_numpy(marked), pc.utf8_slice_codeunits(array, 1), array)


def _holds_texts(column: ColumnArray) -> bool:
    """Whether a column of an output is one of texts, in whatever form."""
    kind = column.type.value_type if pa.types.is_dictionary(column.type) else column.type
    return bool(pa.types.is_string(kind) or pa.types.is_large_string(kind) or pa.types.is_string_view(kind))


class FormulaGuard:
    """Counts the texts of an output that would run as formulas, and marks them where that is wanted."""

    def __init__(self, names: Sequence[str], marks: bool) -> None:
        self._names, self._marks = names, marks
        self._counts = [0] * len(names)

    def apply(self, batch: Batch) -> tuple[Batch, tuple[tuple[int, int], ...]]:
        """The batch as it is written, and how many such texts each column has, by its index."""
        found, columns = [], entries_of(batch.columns)
        for index, known in enumerate(known_of(batch.columns)):
            if isinstance(known, FieldFacts) and not known.risky:
                continue
            stored = batch.columns[index] if isinstance(known, FieldFacts) else known
            column = format_values(stored) if _holds_texts(stored) else stored
            if self._marks:
                columns[index], count = with_guard(column)
            else:
                flags = formulas_in(column)
                count = 0 if flags is None else int(np.count_nonzero(flags))
            if count:
                found.append((index, count))
        return batch.with_columns(columns) if self._marks and found else batch, tuple(found)

    def note(self, counts: tuple[tuple[int, int], ...]) -> None:
        """Takes in what `apply` counted."""
        for index, count in counts:
            self._counts[index] += count

    def warnings(self) -> list[str]:
        """What is said of texts that were written as they are."""
        if self._marks or not any(self._counts):
            return []
        such = [
            f"{count:,} in {name}" for name, count in zip(self._names, self._counts, strict=True) if count
        ]
        cells = "1 text" if sum(self._counts) == 1 else f"{sum(self._counts):,} texts"
        shown = ", ".join(such[:MOST_NAMED]) + (" and other columns" if len(such) > MOST_NAMED else "")
        return [
            f"a spreadsheet that opens the output would run {cells} as a formula ({shown}): to put a ' in front,"
            " write guard formulas"
        ]
