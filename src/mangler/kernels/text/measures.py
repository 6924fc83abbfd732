"""How long the texts of a column are, how many parts marks make of them, and which are blank: counted in one look."""

from __future__ import annotations

from collections import Counter

import numpy as np
import pyarrow.compute as pc

from mangler.kernels import compiled
from mangler.kernels.arrow import from_numpy
from mangler.kernels.text.mark_counts import marks_per_cell
from mangler.kernels.text.text_view import TextArray, view
from mangler.kernels.text.white_space import trim
from mangler.late_dataclass import dataclass


@dataclass(frozen=True)
class Measures:
    """White space around a text is not looked at; nulls are not counted."""

    lengths: tuple[int, int] | None
    """The fewest and the most characters of texts that are not blank; None where there are none."""
    spaced: int
    """Texts with white space at an end."""
    blank: int
    parts: dict[str, Counter[int]]
    """For each mark that occurs, how many texts have so many parts, from two on."""


def measure(texts: TextArray, marks: tuple[str, ...], most: int) -> Measures:
    """Of each text; more parts than `most` count as so many. A mark is one character of ASCII."""
    if compiled.looks is None:
        return _by_numpy(texts, marks, most)
    shortest, longest, spaced, blank, parts = compiled.looks.measure(texts, "".join(marks).encode(), most)
    found = {}
    for mark, counts in zip(marks, parts, strict=True):
        several = np.flatnonzero(counts[2:]) + 2
        if len(several):
            found[mark] = Counter(dict(zip(several.tolist(), counts[several].tolist(), strict=True)))
    return Measures(None if shortest < 0 else (shortest, longest), spaced, blank, found)


def _by_numpy(texts: TextArray, marks: tuple[str, ...], most: int) -> Measures:
    texts = texts.drop_null() if texts.null_count else texts
    bare = trim(texts).array
    spaced = int(np.count_nonzero(view(texts).lengths != view(bare).lengths))
    blank = view(bare).lengths == 0
    if blank.any():
        bare = bare.filter(from_numpy(~blank))
    found = {}
    cells = view(bare)
    for mark in marks:
        times = marks_per_cell(cells, ord(mark))
        if times is not None:
            each = np.bincount(np.minimum(times + 1, most))
            found[mark] = Counter({int(n): int(each[n]) for n in np.flatnonzero(each) if n > 1})
    lengths = np.asarray(pc.utf8_length(bare))
    reach = (int(lengths.min()), int(lengths.max())) if len(lengths) else None
    return Measures(reach, spaced, int(np.count_nonzero(blank)), found)
