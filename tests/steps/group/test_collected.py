"""How large the values of some groups are, before they are taken."""

from __future__ import annotations

from typing import Any

import numpy as np
import pyarrow as pa
from hypothesis import given
from hypothesis import strategies as st

from mangler.expressions.aggregates.aggregate import Arrangement
from mangler.expressions.aggregates.collecting import Join
from mangler.steps.group.collected import Arranged


@given(
    st.lists(st.lists(st.sampled_from(["", "a", "ä", "x" * 50]), max_size=4), min_size=1, max_size=6),
    st.data(),
)
def test_values_are_counted_where_they_may_be_too_many(groups: list[list[str]], data: st.DataObject) -> None:
    texts = [text for group in groups for text in group]
    counts = [len(group) for group in groups]
    order = np.array(data.draw(st.permutations(range(len(texts)))), np.int64)
    shuffled = [""] * len(texts)
    for row, text in zip(order.tolist(), texts, strict=True):
        shuffled[row] = text
    rows = Arrangement(np.repeat(np.arange(len(groups)), counts), order, [pa.array(shuffled, pa.string())])
    aggregate: Any = None
    arranged = Arranged(aggregate, Join(), rows, np.append(0, np.cumsum(counts)), 0)
    first = data.draw(st.integers(0, len(groups) - 1))
    last = data.draw(st.integers(first + 1, len(groups)))
    own = [text for group in groups[first:last] for text in group]
    size = sum(len(text.encode()) for text in own)
    assert arranged.size_of(first, last, enough=-1) == size
    most = len(own) * (max((len(text.encode()) for text in texts), default=0) + 4)
    assert arranged.size_of(first, last, enough=most) == most >= size
