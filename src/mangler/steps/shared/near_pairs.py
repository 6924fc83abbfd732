"""The clause `near`: what `map` and `lookup` say of values that took the nearest key."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from mangler.kernels.keys.near import MOST_EDITS
from mangler.language.mistake import Mistake
from mangler.language.spelling import spell_text
from mangler.language.statement import Statement
from mangler.table.tally import Tally

NEAR = (
    "A value that is not there takes the nearest key, at most so many edits away (1 to 3 letters put in, left out or"
    " changed; letter case and white space do not count), where only one is nearest and fewer than 4,000 are"
    " alike. Each such pair is listed with its count as a warning, so that --strict refuses it; it can be pasted"
    " as a pair of map."
)
NEAR_PAIRS = ("near_pairs",)
"""Histogram: each pair of a value and the key that it took, as `"value" to "key"`."""
MOST_SHOWN = 100


def note_pairs(tally: Tally, values: Sequence[str], keys: Sequence[str], counts: Sequence[int]) -> None:
    histogram = tally.histogram("near_pairs")
    for value, key, count in zip(values, keys, counts, strict=True):
        histogram[f"{spell_text(value)} to {spell_text(key)}"] += count


def warnings_of(tally: Tally) -> list[str]:
    pairs = tally.histograms.get("near_pairs", Counter())
    if not pairs:
        return []
    count = sum(pairs.values())
    cells = "1 cell took" if count == 1 else f"{count:,} cells took"
    listed = sorted(pairs.items(), key=lambda pair: (-pair[1], pair[0]))
    shown = ", ".join(f"{pair} ({times:,})" for pair, times in listed[:MOST_SHOWN])
    more = f" and {len(listed) - MOST_SHOWN:,} more" if len(listed) > MOST_SHOWN else ""
    return [f"{cells} the nearest key: {shown}{more}"]


def check_near(statement: Statement) -> list[Mistake]:
    edits = statement.number("near")
    if edits is None or 1 <= edits <= MOST_EDITS:
        return []
    return [
        Mistake(
            "not-an-amount",
            f"near {edits:,} would take keys that have nothing to do with the value"
            if edits
            else "0 edits away is the value itself",
            f"Write near 1, 2 or {MOST_EDITS}.",
            statement.span_of("near"),
        )
    ]
