from __future__ import annotations

import numpy as np
import pyarrow as pa
from hypothesis import given
from hypothesis import strategies as st

from mangler.kernels.keys.fill_down import fill_from, group_rows, sources_above

ROWS = st.lists(
    st.tuples(st.sampled_from(["a", "b", "", None]), st.sampled_from(["x", "y", None])), max_size=30
)


@given(ROWS, st.booleans())
def test_filling_down_as_plain_python_does(rows: list[tuple[str | None, str | None]], within: bool) -> None:
    keys, cells = [row[0] for row in rows], [row[1] for row in rows]
    expected, last = [], {}
    for key, cell in rows:
        group = key if within else "all"
        last[group] = cell if cell is not None else last.get(group)
        expected.append(last[group])
    array = pa.array(cells, pa.string())
    groups, names = group_rows([pa.array(keys, pa.string())], len(rows))
    assert [names[group][0] for group in groups.tolist()] == keys
    sources = sources_above(array, groups if within else None)
    carried = [None] * int(np.count_nonzero(sources < 0))
    assert fill_from(array, sources, carried).to_pylist() == expected


def test_several_columns_make_a_group() -> None:
    groups, names = group_rows([pa.array(["a", "a", "b"]), pa.array([None, "x", None], pa.string())], 3)
    assert len(set(groups.tolist())) == 3
    assert sorted(names, key=str) == sorted([("a", None), ("a", "x"), ("b", None)], key=str)
