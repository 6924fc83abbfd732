"""Columns by which the rows of two tables belong together: said, or found."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import combinations

import numpy as np
import pyarrow as pa

from mangler.insight.comparison.matching import same_numbers
from mangler.insight.comparison.side import Side
from mangler.kernels.keys.row_hashes import Hashes, row_hashes
from mangler.kernels.text.text_view import TextArray
from mangler.language.mistake import Refusal, enumerate_names, extract_does_not_fit
from mangler.late_dataclass import dataclass
from mangler.table.select import quote_name

SAMPLE = 20_000
"""The first rows of each table, of which candidates are looked for."""
MOST_IN_PAIRS = 20
"""Columns that pairs are made of."""
MOST_CANDIDATES = 3
"""Candidates that are looked at in all rows."""
MOST_OFFERED = 4
LEAST_SHARED = 0.5
"""Of the keys of the smaller table, how many the other must have for a key that was found."""

Key = tuple[str, ...]


def candidates(sides: Sequence[Side], names: Sequence[str]) -> list[Key]:
    """Columns, else pairs of columns, whose values are all different in the first rows of both tables."""
    samples = [_sample(side, names) for side in sides]
    alone: list[Key] = [
        (name,)
        for place, name in enumerate(names)
        if all(not sample[place].null_count and _all_differ([sample[place]]) for sample in samples)
    ]
    if alone or len(names) < 2:
        return alone[:MOST_CANDIDATES]
    found: list[Key] = []
    for one, other in combinations(range(min(len(names), MOST_IN_PAIRS)), 2):
        if all(_all_differ([sample[one], sample[other]]) for sample in samples):
            found.append((names[one], names[other]))
            if len(found) == MOST_CANDIDATES:
                break
    return found


def _sample(side: Side, names: Sequence[str]) -> list[TextArray]:
    pieces = [texts for _, _, texts in side.scan(names, lambda texts, _: texts, SAMPLE)]
    nothing = pa.array([], pa.string())
    return [
        pa.concat_arrays([nothing, *(texts[place].cast(pa.string()) for texts in pieces)])
        for place in range(len(names))
    ]


def _all_differ(columns: Sequence[TextArray]) -> bool:
    return _differ(row_hashes(columns, len(columns[0])))


def _differ(hashes: Hashes) -> bool:
    ordered = np.sort(hashes)
    return not bool((ordered[1:] == ordered[:-1]).any())


@dataclass(frozen=True)
class KeyUse:
    """The keys of all rows of both tables, as numbers."""

    key: Key
    before: Hashes
    after: Hashes

    @property
    def is_key(self) -> bool:
        return _differ(self.before) and _differ(self.after)

    @property
    def shared(self) -> int:
        """How many keys both tables have; none of them has one twice."""
        return len(same_numbers(self.before, self.after)[0])


def best_of(uses: Sequence[KeyUse]) -> KeyUse | None:
    """The key that most rows of both tables share; None where none is one, or too few do."""
    fitting = [(use.shared, use) for use in uses if use.is_key]
    if not fitting:
        return None
    shared, best = max(fitting, key=lambda one: one[0])
    smaller = min(len(best.before), len(best.after))
    return best if shared >= LEAST_SHARED * smaller else None


def require_key(use: KeyUse, sides: Sequence[Side], names: Sequence[str]) -> None:
    """Refuses columns that were said to be a key and are none, with how often values repeat and what would be one."""
    for side, hashes in zip(sides, (use.before, use.after), strict=True):
        if _differ(hashes):
            continue
        values, times = np.unique(hashes, return_counts=True)
        raise _no_key(use.key, side, sides, names, int(times[times > 1].sum()), values[int(times.argmax())])


def _no_key(
    key: Key, side: Side, sides: Sequence[Side], names: Sequence[str], rows: int, most: np.uint64
) -> Refusal:
    example, met = _example(side, key, most)
    advice = _more(key, sides, names)
    return extract_does_not_fit(
        "no-key",
        f"{_listed(key)} is no key of {side.name}: {rows:,} rows have the same as another row,"
        f" {met:,} of them {example}",
        advice
        or "Name other columns, or leave --on out: then rows belong together by their content and their order.",
    )


def _example(side: Side, key: Key, wanted: np.uint64) -> tuple[str, int]:
    """The key that comes most often, as it is written, and how often."""
    shown, met = "", 0
    for _, _, (place, count, cells) in side.scan(key, lambda texts, _: _found(texts, wanted)):
        met += count
        if place and not shown:
            shown = ", ".join("null" if cell is None else f'"{cell}"' for cell in cells)
    return shown, met


def _found(texts: Sequence[TextArray], wanted: np.uint64) -> tuple[bool, int, list[str | None]]:
    where = np.flatnonzero(row_hashes(texts, len(texts[0])) == wanted)
    return bool(len(where)), len(where), [text[int(where[0])].as_py() for text in texts] if len(where) else []


def _more(key: Key, sides: Sequence[Side], names: Sequence[str]) -> str:
    """Advice with columns that make a key of it, as far as the first rows show."""
    others = [name for name in names if name not in key]
    samples = [_sample(side, [*key, *others]) for side in sides]
    own = list(range(len(key)))
    fitting = [
        name
        for place, name in enumerate(others, len(key))
        if all(_all_differ([sample[index] for index in (*own, place)]) for sample in samples)
    ]
    if not fitting:
        return ""
    written = ", ".join(quote_name(name) for name in (*key, fitting[0]))
    return f"With {' or '.join(fitting[:MOST_OFFERED])} it would be one: --on '{written}'"


def _listed(key: Key) -> str:
    return enumerate_names(list(key), 5)
