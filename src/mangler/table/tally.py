"""What a step reports: counts, never sentences. Tallies of batches add up to that of the run."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, field, fields

from mangler.table.row_notes import RowNotes, merged

MOST_EXAMPLES = 3


@dataclass
class Tally:
    """Counts of rows and cells. Those named `missed_…` are cells that the step left and nearly matched."""

    rows_in: int = 0
    rows_out: int = 0
    rows_added: int = 0
    """Rows beyond the first that were made of a row."""
    cells_changed: int = 0
    nulls_made: int = 0
    nulls_filled: int = 0
    cells_emptied: int = 0
    empties_left: int = 0
    missed_by_case: int = 0
    missed_by_space: int = 0
    cells_beyond_ascii: int = 0
    """Cells with letters outside ASCII that a pattern's `\\w`, `\\d` or `\\b` was held against."""
    rows_met: int = 0
    """Rows that a condition is true for."""
    rows_false: int = 0
    rows_null: int = 0
    """Rows that a condition is null for: it counts as not met."""
    rows_merged: int = 0
    """Rows that became one with others."""
    withdrawn: int = 0
    """Rows that left the table because their extract row is set aside, or fails."""
    unmet: int = 0
    """Rows that are not as required, and pass with a warning; `failures` holds the first of them."""
    failed: int = 0
    """Rows whose value could not be made, where that stops the run."""
    failed_to_null: int = 0
    """Cells that became null because their value could not be made."""
    failed_to_value: int = 0
    """Cells that got the value of `failures` because their own could not be made."""
    failed_kept: int = 0
    unmatched: int = 0
    """Cells whose value a table does not have."""
    several: int = 0
    """Rows that match several rows of a reference."""
    null_keys: int = 0
    """Rows that match nothing because they have no key."""
    leading_zeros: int = 0
    """Texts that became numbers and lost zeros in front."""
    nulls_skipped: Counter[str] = field(default_factory=Counter)
    """For each aggregate, as it is spelled, how many nulls it passed over."""
    blank_cells: int = 0
    """Cells without parts."""
    part_counts: Counter[int] = field(default_factory=Counter)
    """How many cells have so many parts; blank ones left out."""
    too_few: int = 0
    """Rows with fewer parts than required names, where that takes no row."""
    too_many: int = 0
    """Rows with parts left over, where that takes no row."""
    set_aside: int = 0
    """Extract rows to be set aside."""
    aside: RowNotes = field(default_factory=RowNotes)
    """These rows with the reason; in a tally of several batches the first few."""
    failures: list[tuple[int, int, str]] = field(default_factory=list)
    """The first few of the failed rows: extract row, physical line, reason."""
    examples: list[str] = field(default_factory=list)
    """The first few of the missed cells, as they stand."""

    def add(self, other: Tally) -> None:
        """Adds the tally of a later batch."""
        self.aside = merged([self.aside, other.aside]).first(MOST_EXAMPLES)
        for item in fields(self):
            if item.name not in ("examples", "aside"):
                setattr(self, item.name, getattr(self, item.name) + getattr(other, item.name))
        del self.failures[MOST_EXAMPLES:]
        for example in other.examples:
            if example not in self.examples and len(self.examples) < MOST_EXAMPLES:
                self.examples.append(example)

    @property
    def rows_dropped(self) -> int:
        """Rows that the step took away, and did not withdraw with their extract row."""
        return self.rows_in + self.rows_added - self.rows_merged - self.withdrawn - self.rows_out

    @property
    def changed_anything(self) -> bool:
        return bool(
            self.cells_changed or self.nulls_made or self.nulls_filled or self.rows_in != self.rows_out
        )
