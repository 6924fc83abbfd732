"""What is counted of cells, compared with counting them in plain Python."""

from __future__ import annotations

from collections import Counter
from itertools import pairwise

import numpy as np
import pyarrow as pa
from hypothesis import given
from hypothesis import strategies as st

from mangler.blanks import BLANKS, LINE_BREAKS
from mangler.insight.columns.facts import MARKS, Facts, distinct_in, facts_of

LETTERS = st.sampled_from([*"ab9é ;,/=-\n\t", "\u00a0", "\u200b", "\u2028", "°", "窯"])
CELLS = st.lists(st.none() | st.text(LETTERS, max_size=8), max_size=30)


def counted(cells: list[str | None]) -> Facts:
    values, counts, nulls = distinct_in(pa.array(cells, pa.string()))
    return facts_of(values, counts, nulls)


def squeezed(cell: str) -> str:
    out, run = "", ""
    for character in [*cell.strip(BLANKS), None]:
        if character is not None and character in BLANKS:
            run += character
            continue
        breaks = any(blank in LINE_BREAKS for blank in run)
        out += "\n" if breaks else " " if run.strip("\u200b\u2060\ufeff") else ""
        out, run = out + (character or ""), ""
    return out


@given(CELLS)
def test_counts_are_those_of_plain_python(cells):
    facts = counted(cells)
    texts = [cell for cell in cells if cell is not None]
    assert facts.cells == len(cells)
    assert facts.nulls == len(cells) - len(texts)
    assert facts.empties == texts.count("")
    assert facts.blanks == sum(bool(text) and not text.strip(BLANKS) for text in texts)
    assert facts.outer == sum(text.strip(BLANKS) != text for text in texts)
    assert facts.inner == sum(squeezed(text) != text.strip(BLANKS) for text in texts)
    assert facts.broken_lines == sum("\n" in squeezed(text) for text in texts)
    unusual = Counter(blank for text in texts for blank in set(text) & set(BLANKS) - set(" \n\r"))
    assert facts.unusual == unusual


@given(CELLS)
def test_parts_are_counted_for_every_mark(cells):
    facts = counted(cells)
    texts = [squeezed(cell) for cell in cells if cell is not None]
    filled = [text for text in texts if text]
    for mark in MARKS:
        expected = Counter(text.count(mark) + 1 for text in filled)
        if set(expected) <= {1}:
            assert facts.parts.get(mark, Counter({1: len(filled)})) == Counter({1: len(filled)})
        else:
            assert facts.parts[mark] == expected


@given(CELLS, st.lists(st.integers(0, 30), max_size=3))
def test_blocks_add_up_to_the_whole(cells, cuts):
    edges = [0, *sorted(min(cut, len(cells)) for cut in cuts), len(cells)]
    together = Facts()
    for start, end in pairwise(edges):
        together.add(counted(cells[start:end]))
    whole = counted(cells)
    for mark, counts in whole.parts.items():
        assert +together.parts[mark] == +counts
    assert together.shapes == whole.shapes
    for name in ("cells", "nulls", "empties", "blanks", "outer", "inner", "broken_lines", "unusual"):
        assert getattr(together, name) == getattr(whole, name)
    assert (together.shortest or (0,))[0] == (whole.shortest or (0,))[0]
    assert (together.longest or (0,))[0] == (whole.longest or (0,))[0]


def test_weights_count_as_so_many_cells():
    facts = facts_of(pa.array([" a", "b;c"]), np.array([5, 2]), 3)
    assert (facts.cells, facts.nulls, facts.outer, facts.filled) == (10, 3, 5, 7)
    assert facts.parts[";"] == Counter({1: 5, 2: 2})
