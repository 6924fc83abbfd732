"""The written form of cells: forms, letter cases, and the sizes of numbers."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from functools import cache

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.insight.columns.facts import Counts
from mangler.insight.columns.shape_kinds import date_forms_of
from mangler.insight.fingerprint.fingerprint import MOST_FORMS, Forms
from mangler.kernels.arrow import from_numpy
from mangler.kernels.taking import take
from mangler.kernels.text.letter_cases import letter_cases
from mangler.kernels.text.text_view import Flags, Offsets, TextArray

PLAIN = re.compile(r"[+-]?9{1,15}(\.9+)?")
"""The shapes of what is plainly a number: they have the digits of their texts, each as a 9."""
LONGEST_EXAMPLE = 24
SMALLEST, SHIFT = 2.0**-40, 81
"""Numbers below are as small as any; sizes are counted from there."""
RUN_OF_DIGITS = re.compile("9+")


Met = tuple[list[str], Offsets]
"""The shapes of some values, and for each value the number of its shape."""


def forms_of(values: TextArray, counts: Counts, met: Met) -> Forms:
    """The forms of values, their letter cases, and the sizes of numbers."""
    found = Forms()
    if not len(values):
        return found
    spelled, codes = met
    each = np.bincount(codes, counts, len(spelled)).astype(np.int64)
    forms = [form_of(shape) for shape in spelled]
    for form, cells in zip(forms, each.tolist(), strict=True):
        found.cells[form] += cells
    if len(found.cells) <= MOST_FORMS:
        found.examples = _shortest(values, list(found.cells), forms, codes)
    found.cases = +Counter({case: int(counts[own].sum()) for case, own in letter_cases(values).items()})
    plain = plain_shapes(spelled)[codes]
    if plain.any():
        numbers = np.abs(np.asarray(pc.cast(values.filter(from_numpy(plain)), pa.float64())))
        with np.errstate(divide="ignore"):
            halves = np.where(numbers > 0, np.floor(2 * np.log2(np.maximum(numbers, SMALLEST))) + SHIFT, 0)
        sizes = np.bincount(np.maximum(halves, 0).astype(np.int64), counts[plain]).astype(np.int64)
        found.sizes = Counter({int(size): int(sizes[size]) for size in np.flatnonzero(sizes)})
    return found


def _shortest(values: TextArray, forms: list[str], of_shapes: list[str], codes: Offsets) -> dict[str, str]:
    """For each form the least of its shortest texts; `codes` are the shapes of the values."""
    number = {form: index for index, form in enumerate(forms)}
    own = np.array([number[form] for form in of_shapes], np.int64)[codes]
    lengths = np.asarray(pc.utf8_length(values))
    order = np.lexsort((lengths, own))
    starts = np.searchsorted(own[order], np.arange(len(forms)))
    shortest = np.flatnonzero(lengths == lengths[order[starts]][own])
    texts = take(values, shortest[np.argsort(own[shortest], kind="stable")])
    ends = np.cumsum(np.bincount(own[shortest], minlength=len(forms))).tolist()
    return {
        form: pc.min(texts.slice(start, end - start)).as_py()[:LONGEST_EXAMPLE]
        for form, start, end in zip(forms, [0, *ends], ends, strict=False)
    }


def plain_shapes(spelled: Sequence[str]) -> Flags:
    """Which shapes are those of plain numbers."""
    return np.fromiter((PLAIN.fullmatch(shape) is not None for shape in spelled), np.bool_, len(spelled))


@cache
def form_of(shape: str) -> str:
    """That of a date, or the shape with one 9 for each run of digits; a sign in front is not a form of its own."""
    dates = date_forms_of(shape)
    if dates:
        return dates[0]
    return RUN_OF_DIGITS.sub("9", shape.removeprefix("-").removeprefix("+") or shape)
