"""Work on several items at once, delivered in their order."""

from __future__ import annotations

import threading
import time
from collections.abc import Iterator

import pytest

from mangler.table.in_order import in_order


@pytest.mark.parametrize("workers", [1, 2, 3])
@pytest.mark.parametrize("count", range(7))
def test_every_item_is_worked_on_and_comes_out_in_its_place(workers: int, count: int) -> None:
    def work(item: int) -> int:
        time.sleep(0.002 * (item % 3))  # later ones are ready first
        return item * 10

    assert list(in_order(iter(range(count)), work, workers)) == [item * 10 for item in range(count)]


def test_a_single_item_takes_no_thread() -> None:
    assert list(in_order([1], lambda _: threading.current_thread(), 2)) == [threading.main_thread()]
    threads = list(in_order([1, 2], lambda _: threading.current_thread(), 2))
    assert threading.main_thread() not in threads


def test_no_more_items_are_taken_than_are_worked_on() -> None:
    taken = []

    def items() -> Iterator[int]:
        for item in range(100):
            taken.append(item)
            yield item

    outcomes = in_order(items(), lambda item: item, 2)
    assert next(outcomes) == 0
    assert len(taken) <= 4
    outcomes.close()  # type: ignore[attr-defined]


def test_what_goes_wrong_is_raised_in_its_place() -> None:
    def work(item: int) -> int:
        if item == 3:
            raise ValueError("three")
        return item

    seen = []
    with pytest.raises(ValueError, match="three"):
        for outcome in in_order(range(9), work, 2):
            seen.append(outcome)
    assert seen == [0, 1, 2]
