"""Batches are taken on in their order, in a thread of their own, and what goes wrong first is told first."""

from __future__ import annotations

import threading
from collections.abc import Callable

import pytest

from mangler.engine.run.absorbing import MOST_WAITING, InTurn


def failing(text: str) -> Callable[[], float]:
    def call() -> float:
        raise ValueError(text)

    return call


@pytest.mark.parametrize("at_once", [True, False])
def test_calls_and_what_they_give_come_in_order(at_once: bool) -> None:
    called: list[tuple[int, bool]] = []
    given: list[tuple[float, bool]] = []
    here = threading.get_ident()

    def call(number: int) -> Callable[[], float]:
        def work() -> float:
            called.append((number, threading.get_ident() == here))
            return float(number)

        return work

    with InTurn(at_once) as turn:
        for number in range(20):
            turn.add(call(number), lambda seconds: given.append((seconds, threading.get_ident() == here)))
        turn.finish()
    assert called == [(number, at_once) for number in range(20)]
    assert given == [(float(number), True) for number in range(20)]


def test_few_wait() -> None:
    """Who adds waits until there is room: batches that wait take memory."""
    may_go, given = threading.Event(), []

    def slow() -> float:
        may_go.wait(10)
        return 0.0

    with InTurn(at_once=False) as turn:
        for _ in range(MOST_WAITING):
            turn.add(slow, given.append)
        assert given == []
        adding = threading.Thread(target=lambda: turn.add(slow, given.append))
        adding.start()
        adding.join(0.2)
        assert adding.is_alive()
        may_go.set()
        adding.join(10)
        assert not adding.is_alive()
        turn.finish()
    assert len(given) == MOST_WAITING + 1


def test_a_failure_is_raised_and_nothing_after_it_is_taken_on() -> None:
    given: list[float] = []
    turn = InTurn(at_once=False)
    with pytest.raises(ValueError, match="first"), turn:
        turn.add(lambda: 1.0, given.append)
        turn.add(failing("first"), given.append)
        turn.add(lambda: 2.0, given.append)
        turn.finish()
    assert given == [1.0]


def test_what_failed_before_comes_before_what_fails_later() -> None:
    """A row that a step cannot take on is told, although a later one cannot be read."""
    with pytest.raises(ValueError, match="absorbed"), InTurn(at_once=False) as turn:
        turn.add(failing("absorbed"), lambda _: None)
        raise RuntimeError("read")
    with pytest.raises(RuntimeError, match="read"), InTurn(at_once=False) as turn:
        turn.add(lambda: 0.0, lambda _: None)
        raise RuntimeError("read")


def test_an_interruption_waits_for_no_one() -> None:
    called: list[int] = []

    def call(number: int) -> float:
        called.append(number)
        return 0.0

    may_go = threading.Event()
    with pytest.raises(KeyboardInterrupt), InTurn(at_once=False) as turn:
        turn.add(lambda: float(not may_go.wait(0.5)), lambda _: None)
        turn.add(lambda: call(1), lambda _: None)
        raise KeyboardInterrupt
    assert called == []
