"""A table that grows: which of its rows were delivered before is known by a column whose values grow too."""

from __future__ import annotations

from collections.abc import Mapping
from hashlib import blake2b
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.arrow import ColumnArray
from mangler.kernels.values.row_text import row_texts
from mangler.language.mistake import extract_does_not_fit, nearest
from mangler.language.source import SourceSpan

ORDERED = (
    pa.types.is_integer,
    pa.types.is_decimal,
    pa.types.is_date,
    pa.types.is_timestamp,
    pa.types.is_string,
)
"""Types whose values have one order, in the database and here."""


class Growing:
    """What is known of the column: its highest value that was read, and with `overlap` the rows of its last values.

    `before` is what `noted` gave when rows were delivered last; None where there were none.
    """

    def __init__(
        self,
        column: str,
        overlap: int,
        schema: Any,
        before: Mapping[str, Any] | None,
        span: SourceSpan | None,
    ) -> None:
        if column not in schema.names:
            close = nearest(column, schema.names)
            raise extract_does_not_fit(
                "unknown-column",
                f'what is read has no column "{column}", which says what is newer',
                f"Nearest: {close[0]}." if close else "",
                span,
            )
        self.column, self._overlap = column, overlap
        self._index = schema.names.index(column)
        self._type = schema.types[self._index]
        if not any(is_such(self._type) for is_such in ORDERED):
            raise extract_does_not_fit(
                "wrong-type",
                f'the column "{column}" is {self._type}, and values of this type do not say what is newer',
                "Take a column of whole numbers, dates or timestamps.",
                span,
            )
        self._last: Any = None
        self._window: dict[Any, list[str]] = {}
        self.found = 0
        """Rows that are new."""
        self.skipped = 0
        """Rows that were delivered before, and read again."""
        if before is not None and before["column"] == column:
            self._last = self._value(before["value"])
            for value, digest in before["rows"]:
                self._window.setdefault(self._value(value), []).append(digest)
        self._known = {digest for digests in self._window.values() for digest in digests}

    def _value(self, spelled: str) -> Any:
        return pa.scalar(spelled, pa.string()).cast(self._type).as_py()

    def _spelled(self, value: Any) -> str:
        return str(pa.scalar(value, self._type).cast(pa.string()).as_py())

    @property
    def start(self) -> tuple[Any, bool] | None:
        """The value from which rows are read, and whether those that have it are; None for all rows."""
        if self._last is None:
            return None
        if self._overlap and self._window:
            return min(self._window), True
        return self._last, False

    def only_new(self, records: Any) -> Any:
        """The rows of these that were not delivered before."""
        column = records.column(self._index)
        if self._known:
            texts = self._digests(records, np.arange(len(column)))
            new = np.array([digest not in self._known for digest in texts], np.bool_)
            self.skipped += int(len(new) - new.sum())
            records = records.filter(pa.array(new))
            column = records.column(self._index)
        self.found += len(column)
        highest = pc.max(column).as_py() if len(column) else None
        if highest is not None:
            self._last = highest if self._last is None else max(self._last, highest)
            if self._overlap:
                self._note(records, column)
        return records

    def _note(self, records: Any, column: ColumnArray) -> None:
        """Remembers the rows of the last values."""
        values = pc.unique(column.drop_null())
        newest = sorted([*self._window, *values.to_pylist()])[-self._overlap :]
        own = np.asarray(pc.fill_null(pc.greater_equal(column, pa.scalar(newest[0], self._type)), False))
        rows = np.flatnonzero(own)
        chosen = column.take(pa.array(rows)).to_pylist()
        for value, digest in zip(chosen, self._digests(records, rows), strict=True):
            self._window.setdefault(value, []).append(digest)
        kept = set(newest)
        self._window = {value: digests for value, digests in self._window.items() if value in kept}

    def _digests(self, records: Any, rows: Any) -> list[str]:
        texts = row_texts(records.take(pa.array(rows))).to_pylist()
        return [blake2b(str(text).encode(), digest_size=8).hexdigest() for text in texts]

    def remarks(self) -> list[str]:
        """What is said of rows that were delivered before."""
        said = []
        if self.skipped == 1:
            said.append("1 row that was delivered before came again, and was skipped")
        elif self.skipped:
            said.append(f"{self.skipped:,} rows that were delivered before came again, and were skipped")
        if not self.found and self.start is not None:
            said.append(
                f"no row is newer than those that were delivered before, up to {self.column} {self._last}"
            )
        return said

    def noted(self) -> dict[str, Any] | None:
        """What is to be known of it next time; None where no row was ever read."""
        if self._last is None:
            return None
        rows = [[self._spelled(value), one] for value in sorted(self._window) for one in self._window[value]]
        return {"column": self.column, "value": self._spelled(self._last), "rows": rows}
