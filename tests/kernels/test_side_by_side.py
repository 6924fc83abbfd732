"""The same work on several columns at once."""

from __future__ import annotations

import threading

import pytest

from mangler.kernels.side_by_side import LEAST, side_by_side


@pytest.mark.parametrize("rows", [1, LEAST])
def test_outcomes_come_in_the_order_of_the_items(rows: int) -> None:
    assert side_by_side(lambda item: item * 2, [3, 1, 2], rows) == [6, 2, 4]


def test_short_columns_need_no_thread() -> None:
    threads = side_by_side(lambda _: threading.current_thread(), [1, 2], LEAST - 1)
    assert threads == [threading.main_thread()] * 2
    assert threading.main_thread() not in side_by_side(lambda _: threading.current_thread(), [1, 2], LEAST)


def test_what_goes_wrong_is_raised() -> None:
    with pytest.raises(ZeroDivisionError):
        side_by_side(lambda item: 1 // item, [1, 0], LEAST)
