"""Work on several items at once, delivered in their order."""

from __future__ import annotations

import threading
import time
from collections.abc import Iterator

import pytest
from tests.conftest import Run

from mangler.engine.memory import bytes_of, half_of_the_machine
from mangler.engine.pipeline import in_order, stages_of
from mangler.engine.plan import plan
from mangler.engine.recipe import Recipe
from mangler.table.schema import Schema


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


def test_a_step_that_sees_all_rows_ends_a_stage() -> None:
    recipe = Recipe.parse("mangler 1\ntrim *\nsort by a\ndedupe\nfill a up\ntrim b\nnumber rows as n")
    stages = stages_of(plan(recipe.parsed, Schema.of_text(["a", "b"])).steps)
    assert [(stage.first, len(stage.steps), stage.gathers is not None) for stage in stages] == [
        (0, 1, True),
        (2, 0, True),
        (3, 0, True),
        (4, 2, False),
    ]


def test_steps_after_gathering_ones_run_in_the_new_order(run: Run) -> None:
    extract = "a,b\n" + "".join(f"{(n * 7) % 50},{n}\n" for n in range(50))
    steps = "convert a to integer\nsort by a\nnumber rows as n\nsort by a descending\nfill b down\nnumber rows as m"
    for block in (16, 1 << 20):
        table = run(steps, extract, block_size=block, memory=500).table.to_pylist()
        assert [row["n"] for row in table] == list(range(50, 0, -1))
        assert [row["m"] for row in table] == list(range(1, 51))
        assert [row["a"] for row in table] == list(range(49, -1, -1))


@pytest.mark.parametrize(
    ("text", "size"),
    [
        ("500MB", 500_000_000),
        ("2 GB", 2_000_000_000),
        ("1.5gib", 3 << 29),
        ("64", 64),
        ("7b", 7),
        ("MB", None),
        ("-1MB", None),
        ("1XB", None),
        ("", None),
    ],
)
def test_amounts_of_memory(text: str, size: int | None) -> None:
    assert bytes_of(text) == size


def test_half_of_the_machine_is_some() -> None:
    assert half_of_the_machine() > 1 << 28
