"""What a column says once white space is taken off: its distinct values, and how many cells mean each."""

from __future__ import annotations

from collections.abc import Iterable
from functools import cached_property
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.insight.columns.facts import Counts
from mangler.insight.columns.shape_kinds import ShapeKind, kind_of
from mangler.kernels.arrow import from_numpy
from mangler.kernels.text.dictionary import as_dictionary
from mangler.kernels.text.patterns import matches
from mangler.kernels.text.shapes import shapes
from mangler.kernels.text.text_view import Flags, TextArray, view
from mangler.kernels.text.white_space import squeeze
from mangler.late_dataclass import dataclass


@dataclass(frozen=True)
class Content:
    """`texts[i]` is meant by `counts[i]` cells. No text is blank, all are squeezed, each is there once."""

    texts: TextArray
    counts: Counts

    def __len__(self) -> int:
        return len(self.counts)

    @cached_property
    def cells(self) -> int:
        return int(self.counts.sum())

    @cached_property
    def values(self) -> list[str]:
        found: list[str] = self.texts.to_pylist()
        return found

    @cached_property
    def folded(self) -> TextArray:
        """The texts without letter case."""
        return pc.utf8_lower(pc.utf8_upper(self.texts))

    @cached_property
    def _kinds(self) -> tuple[list[ShapeKind], Any]:
        """The kinds of shapes, and for each text which of them is its own."""
        encoded = as_dictionary(shapes(self.texts))
        return [kind_of(shape) for shape in encoded.dictionary.to_pylist()], np.asarray(encoded.indices)

    def kind_at(self, index: int) -> ShapeKind:
        """What a text looks like."""
        by_shape, codes = self._kinds
        return by_shape[int(codes[index])]

    def of_kinds(self, wanted: Iterable[ShapeKind]) -> Flags:
        """Which texts look like one of these."""
        by_shape, codes = self._kinds
        kinds = set(wanted)
        flags: Flags = np.array([kind in kinds for kind in by_shape], np.bool_)[codes]
        return flags

    def share_of(self, wanted: Iterable[ShapeKind]) -> float:
        """Which share of the cells looks like one of these."""
        return self.cells_of(self.of_kinds(wanted)) / self.cells if self.cells else 0.0

    def cells_of(self, flags: Flags) -> int:
        return int(self.counts[flags].sum())

    def where(self, flags: Flags) -> Content:
        """Only these texts."""
        if flags.all():
            return self
        return Content(self.texts.filter(from_numpy(flags)), self.counts[flags])

    def matching(self, pattern: str) -> Flags:
        return matches(self.texts, pattern)

    def most(self, count: int) -> list[tuple[str, int]]:
        """The texts that most cells have, with their cells."""
        order = np.argsort(-self.counts, kind="stable")[:count]
        return [(self.texts[int(i)].as_py(), int(self.counts[i])) for i in order]

    def without(self, words: Iterable[str]) -> Content:
        """The texts that are none of these, whatever their letter case."""
        folded = set(words)
        if not folded:
            return self
        known = pc.is_in(self.folded, value_set=pa.array(sorted(folded), pa.string()))
        return self.where(~np.asarray(known))


def content_of(values: TextArray, counts: Counts) -> Content:
    """What distinct values say once white space is taken off them; blank ones say nothing."""
    squeezed = squeeze(values, True, True, False).array
    return merged(squeezed, counts)


def merged(texts: TextArray, counts: Counts) -> Content:
    """Equal texts together, blank ones left out."""
    filled = view(texts).lengths > 0
    if not filled.all():
        texts, counts = texts.filter(from_numpy(filled)), counts[filled]
    encoded = as_dictionary(texts)
    together = np.bincount(np.asarray(encoded.indices), counts, len(encoded.dictionary)).astype(np.int64)
    return Content(encoded.dictionary, together)


def folded_groups(content: Content) -> tuple[Any, Any]:
    """For each text the number of its group, whose texts differ in letter case only; and each group's cells."""
    encoded = as_dictionary(content.folded)
    codes = np.asarray(encoded.indices)
    return codes, np.bincount(codes, content.counts, len(encoded.dictionary)).astype(np.int64)
