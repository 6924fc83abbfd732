"""Delimited lists fixed inside their cells."""

from __future__ import annotations

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.arrow import from_numpy
from mangler.kernels.text.delimiters import Delimiters
from mangler.kernels.text.dictionary import as_dictionary
from mangler.kernels.text.growth import refuse_beyond
from mangler.kernels.text.parts import cut
from mangler.kernels.text.text_view import Flags, TextArray, view
from mangler.kernels.text.whole import WholeMatcher, match_whole
from mangler.late_dataclass import dataclass


@dataclass(frozen=True)
class ListWork:
    """What is done to each list, in this order. `first` 0: all stay. `anycase` applies to doubles and to sorting."""

    delimiters: Delimiters
    separator: str
    without: WholeMatcher | None = None
    keep_empty: bool = False
    unique: bool = False
    sorted: bool = False
    first: int = 0
    anycase: bool = False
    without_first: WholeMatcher | None = None
    """Of each of these only the first part in a list goes."""


def clean_lists(array: TextArray, work: ListWork) -> tuple[TextArray, Flags]:
    """Each cell's parts, trimmed, fixed and put together again; null where nothing is left.

    Then the cells with a part that `without` would take away in another letter case.
    """
    by_case = np.zeros(len(array), np.bool_)
    parts = cut(array, work.delimiters, trim=True, drop_empty=not work.keep_empty)
    texts, owner = parts.all_texts(), parts.owners()
    keep = np.ones(len(texts), np.bool_)
    if work.without is not None and len(texts):
        match = match_whole(texts, work.without)
        keep &= match.codes < 0
        by_case[owner[match.by_case]] = True
    if work.without_first is not None and len(texts):
        codes = match_whole(texts, work.without_first).codes
        hits = np.flatnonzero((codes >= 0) & keep)
        _, first = np.unique(np.stack([owner[hits], codes[hits]]), axis=1, return_index=True)
        keep[hits[first]] = False
    order = np.flatnonzero(keep)
    if (work.unique or work.sorted) and len(order):
        compared = pc.utf8_lower(pc.utf8_upper(texts)) if work.anycase else texts
        encoded = as_dictionary(compared)
        codes, values = np.asarray(encoded.indices).astype(np.int64), encoded.dictionary
        if work.unique:
            _, met = np.unique(owner[order] * len(values) + codes[order], return_index=True)
            order = order[np.sort(met)]
        if work.sorted:
            rank = np.empty(len(values), np.int64)
            rank[np.asarray(pc.sort_indices(values))] = np.arange(len(values))
            order = order[np.lexsort((rank[codes[order]], owner[order]))]
    owner = owner[order]
    counts = np.bincount(owner, minlength=len(array)) if len(array) else np.zeros(0, np.intp)
    offsets = np.concatenate(([0], np.cumsum(counts)))
    if work.first:
        within = np.arange(len(order)) - offsets[owner]
        order, owner = order[within < work.first], owner[within < work.first]
        counts = np.minimum(counts, work.first)
        offsets = np.concatenate(([0], np.cumsum(counts)))
    size = view(texts).data.nbytes + len(order) * len(work.separator.encode())
    refuse_beyond(size, "these lists")
    lists = pa.ListArray.from_arrays(
        pa.array(offsets.astype(np.int32)), texts.take(from_numpy(order)), mask=pa.array(counts == 0)
    )
    return pc.binary_join(lists, work.separator), by_case
