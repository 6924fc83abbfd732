from __future__ import annotations

from typing import Any

import pyarrow as pa
from hypothesis import given
from hypothesis import strategies as st

from mangler.expressions.by_distinct import by_distinct

ROWS = st.lists(
    st.tuples(
        st.none() | st.sampled_from("abc"), st.none() | st.integers(0, 3), st.none() | st.sampled_from("xy")
    ),
    max_size=20,
)


@given(ROWS)
def test_each_row_gets_its_own_parameters(rows: list[tuple[str | None, int | None, str | None]]) -> None:
    cells, counts, marks = ([row[i] for row in rows] for i in range(3))
    calls: list[tuple[int, str]] = []

    def work(chosen: Any, count: int, mark: str) -> Any:
        calls.append((count, mark))
        return pa.array(
            [None if cell is None else cell * count + mark for cell in chosen.to_pylist()], pa.string()
        )

    out = by_distinct(
        pa.array(cells, pa.string()),
        [pa.array(counts, pa.int64()), pa.array(marks, pa.string())],
        work,
        pa.string(),
    )
    expected = [None if None in row else row[0] * row[1] + row[2] for row in rows]  # type: ignore[operator]
    assert out.to_pylist() == expected
    assert len(calls) == len(set(calls))  # once a combination


def test_each_combination_is_worked_on_once_and_its_rows_are_not_searched_for() -> None:
    """As many calls as combinations, each with its own rows: for 100,000 of them every call once went through all."""
    count = 20_000
    seen: list[int] = []

    def work(chosen: Any, number: int) -> Any:
        seen.append(len(chosen))
        return pa.array([f"{cell}{number}" for cell in chosen.to_pylist()])

    numbers = pa.array(range(count))
    out = by_distinct(pa.array(["a"] * count), [numbers], work, pa.string())
    assert seen == [1] * count
    assert out.to_pylist() == [f"a{number}" for number in range(count)]
