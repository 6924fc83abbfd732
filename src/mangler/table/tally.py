"""What a step counts. The tallies of batches add up to the tally of a run."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import field
from typing import Any

import numpy as np

from mangler.late_dataclass import dataclass
from mangler.table.batch import RowNumbers
from mangler.table.row_notes import RowNotes, merged

MOST_EXAMPLES = 3
MOST_SAMPLED = 200
"""Different texts that a tally keeps of those that a step met."""


@dataclass
class Tally:
    """Rows, and the named counters that a verb declares.

    Rows are counted here because the balance of rows needs them; so are rows that fail or are set aside. Everything
    else is in `counts` and `histograms`, under a name that is in the verb's declaration.
    """

    rows_in: int = 0
    rows_out: int = 0
    rows_added: int = 0
    """Rows beyond the first that came from one row."""
    rows_merged: int = 0
    """Rows that became one with others."""
    withdrawn: int = 0
    """Rows that left the table because their extract row is set aside, or fails."""
    failed: int = 0
    """Rows whose value could not be computed, where that stops the run."""
    failures: list[tuple[int, int, str]] = field(default_factory=list)
    """The first few of the failed rows: extract row, physical line, reason."""
    set_aside: int = 0
    """Extract rows to be set aside."""
    aside: RowNotes = field(default_factory=RowNotes)
    """These rows with the reason; in a tally of several batches only the first few."""
    counts: Counter[str] = field(default_factory=Counter)
    """The verb's own counters, by name. A counter that was never raised is 0."""
    histograms: dict[str, Counter[Any]] = field(default_factory=dict)
    """How often each value of something was counted, by the name of that something."""
    found: dict[str, int] = field(default_factory=dict)
    """A few cells that the step left although it nearly changed them, each with its first extract row."""
    sample: dict[str, tuple[int, int]] = field(default_factory=dict)
    """Some of the texts that the step met: the digest of each, and in how many cells it is."""
    rows: RowNumbers | None = field(default=None, compare=False, repr=False)
    """The extract rows of the cells that are being counted; only while a step works on a batch."""

    def add(self, other: Tally) -> None:
        """Adds the tally of later rows."""
        self.aside = merged([self.aside, other.aside]).first(MOST_EXAMPLES)
        for name in ROW_COUNTS:
            setattr(self, name, getattr(self, name) + getattr(other, name))
        self.counts.update(other.counts)
        for name, counter in other.histograms.items():
            self.histogram(name).update(counter)
        self.failures += other.failures[: MOST_EXAMPLES - len(self.failures)]
        self.note_found((row, text) for text, row in other.found.items())
        self.note_sample((text, *known) for text, known in other.sample.items())

    @property
    def examples(self) -> list[str]:
        """The cells that were found, in the order of their rows."""
        return list(self.found)

    def note_found(self, cells: Iterable[tuple[int, str]]) -> None:
        """Keeps the first few of these cells and of those found before, whatever batches they came in."""
        for row, text in cells:
            self.found[text] = min(row, self.found.get(text, row))
        first = sorted(self.found.items(), key=lambda pair: (pair[1], pair[0]))[:MOST_EXAMPLES]
        self.found = dict(first)

    def note_sample(self, texts: Iterable[tuple[str, int, int]]) -> None:
        """Takes in texts, each with its digest and its cells. Those with the least digests are kept.

        So it is the same texts, each with all its cells, whatever batches they came in; and any text may be among them.
        """
        for text, digest, cells in texts:
            self.sample[text] = (digest, cells + self.sample.get(text, (0, 0))[1])
        if len(self.sample) > MOST_SAMPLED:
            least = sorted(self.sample.items(), key=lambda one: (one[1][0], one[0]))[:MOST_SAMPLED]
            self.sample = dict(least)

    def histogram(self, name: str) -> Counter[Any]:
        """The histogram of this name, which is made where there is none yet."""
        return self.histograms.setdefault(name, Counter())

    def count(self, name: str) -> int:
        """One of the counts of rows, or a counter of the verb's own."""
        return int(getattr(self, name)) if name in ROW_COUNTS else self.counts[name]

    @classmethod
    def of_counts(cls, counts: Mapping[str, int]) -> Tally:
        """A tally with these counts, by the names that `count` takes."""
        tally = cls()
        for name, count in counts.items():
            if name in ROW_COUNTS:
                setattr(tally, name, count)
            else:
                tally.counts[name] = count
        return tally

    @property
    def rows_dropped(self) -> int:
        """Rows that the step took away and did not withdraw with their extract row."""
        return self.rows_in + self.rows_added - self.rows_merged - self.withdrawn - self.rows_out

    @property
    def changed_anything(self) -> bool:
        changes = ("cells_changed", "nulls_made", "nulls_filled")
        return self.rows_in != self.rows_out or any(self.counts[name] for name in changes)

    def to_record(self) -> dict[str, Any]:
        """The tally as names with values that JSON has."""
        return {
            **{name: getattr(self, name) for name in ROW_COUNTS},
            "failures": self.failures,
            "aside": [self.aside.rows.tolist(), self.aside.codes.tolist(), list(self.aside.reasons)],
            "counts": dict(self.counts),
            "histograms": {name: list(counter.items()) for name, counter in self.histograms.items()},
            "found": list(self.found.items()),
            "sample": [[text, *known] for text, known in self.sample.items()],
        }

    @classmethod
    def from_record(cls, record: dict[str, Any]) -> Tally:
        """The tally that `to_record` gave."""
        rows, codes, reasons = record["aside"]
        return cls(
            **{name: record[name] for name in ROW_COUNTS},
            failures=[(row, line, why) for row, line, why in record["failures"]],
            aside=RowNotes(np.array(rows, np.int64), np.array(codes, np.int64), tuple(reasons)),
            counts=Counter(record["counts"]),
            histograms={name: Counter(dict(pairs)) for name, pairs in record["histograms"].items()},
            found=dict(record["found"]),
            sample={text: (digest, cells) for text, digest, cells in record["sample"]},
        )


ROW_COUNTS = ("rows_in", "rows_out", "rows_added", "rows_merged", "withdrawn", "failed", "set_aside")
