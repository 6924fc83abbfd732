"""What the groups of a pattern match in each cell."""

from __future__ import annotations

from functools import cache
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.arrow import from_numpy
from mangler.kernels.text.patterns import groups
from mangler.kernels.text.text_view import Flags, TextArray, TextView, build, view
from mangler.late_dataclass import dataclass


@dataclass(frozen=True)
class Captured:
    """A column for each group, null where it took no part, and the cells in which the pattern is not found."""

    groups: tuple[TextArray, ...]
    unmatched: Flags


def group_names(pattern: str) -> tuple[str, ...]:
    """The names of a pattern's groups in their order; empty for those without one."""
    return tuple(name for _, _, name in groups(pattern))


@cache
def _numbered(pattern: str) -> str:
    """The pattern with every group named by its number, and one round the whole."""
    out, last = [], 0
    for number, (start, end, _) in enumerate(groups(pattern), 1):
        out += [pattern[last:start], f"(?P<g{number}>"]
        last = end
    return f"(?P<g0>{''.join(out)}{pattern[last:]})"


def capture(array: TextArray, pattern: str) -> Captured:
    """The first place in each cell where the pattern is found. Null cells are not unmatched."""
    cells = view(array)
    spans = pc.extract_regex_span(array, pattern=_numbered(pattern))
    count = len(group_names(pattern))
    found = np.asarray(spans.is_valid())
    unmatched = np.asarray(array.is_valid()) & ~found
    return Captured(tuple(_texts(cells, spans.field(n), found) for n in range(1, count + 1)), unmatched)


def _texts(cells: TextView, span: Any, found: Flags) -> TextArray:
    """The bytes of each cell that a span names, as a column; cut once from what is there."""
    count = len(cells.offsets) - 1
    if not count:
        return pa.array([], pa.string())
    there = found & np.asarray(span.is_valid())
    bounds = np.asarray(span.values.fill_null(0)).reshape(-1, 2)
    offsets = np.empty(2 * count, np.int32)
    offsets[0::2] = cells.starts + np.where(there, bounds[:, 0], 0)
    offsets[1::2] = offsets[0::2] + np.where(there, bounds[:, 1], 0)
    between = build(cells.data, offsets, None)
    return between.take(from_numpy(np.arange(0, 2 * count, 2), nulls=~there))
