"""Classes that get their methods when they are first used are those of the standard library."""

from __future__ import annotations

import copy
import copyreg
import pickle
import sys
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import FrozenInstanceError, asdict, field, fields, is_dataclass, replace
from inspect import signature
from typing import Any

import pytest

from mangler.late_dataclass import dataclass


@dataclass(frozen=True)
class Kept:
    """One that nobody made an instance of, when it comes back from a pickle."""

    name: str
    rows: list[int] = field(default_factory=list, compare=False)


def frozen() -> Any:
    @dataclass(frozen=True)
    class Cell:
        text: str
        column: int = 0

        def __post_init__(self) -> None:
            if self.column < 0:
                raise ValueError(self.column)

    return Cell


USES: list[Callable[[Any], Any]] = [
    lambda cls: cls("a").column == 0,
    lambda cls: cls("a", column=2) == cls("a", 2) != cls("a"),
    lambda cls: len({cls("a"), cls("a"), cls("b")}) == 2,
    lambda cls: repr(cls("a")).endswith("Cell(text='a', column=0)"),
    lambda cls: [one.name for one in fields(cls)] == ["text", "column"],
    lambda cls: is_dataclass(cls),
    lambda cls: replace(cls("a"), column=3) == cls("a", 3),
    lambda cls: asdict(cls("a")) == {"text": "a", "column": 0},
    lambda cls: copy.deepcopy(cls("a")) == cls("a"),
    lambda cls: list(signature(cls).parameters) == ["text", "column"],
    lambda cls: cls.__dataclass_fields__.keys() == {"text", "column"},
]


@pytest.mark.parametrize("use", USES)
def test_whatever_is_asked_first(use: Callable[[Any], Any]) -> None:
    assert use(frozen())


def test_what_it_refuses_it_refuses_from_the_start() -> None:
    with pytest.raises(ValueError, match="-1"):
        frozen()("a", -1)
    with pytest.raises(TypeError, match="text"):
        frozen()()
    cell = frozen()("a")
    with pytest.raises(FrozenInstanceError):
        cell.text = "b"
    with pytest.raises(FrozenInstanceError):
        del cell.text


def test_an_instance_that_no_call_made() -> None:
    """As pickle and copy make one, in a process that has made none before."""
    fresh = frozen()
    one = copyreg.__newobj__(fresh)  # type: ignore[attr-defined]
    one.__dict__.update(text="a", column=1)
    with pytest.raises(FrozenInstanceError):
        one.text = "b"
    assert hash(one) == hash(fresh("a", 1))
    assert pickle.loads(pickle.dumps(Kept("a", [1]))) == Kept("a", [2])


def test_a_class_of_it_and_more() -> None:
    @dataclass
    class Base:
        name: str

    @dataclass
    class Above(Base):
        size: int = 0

        def __repr__(self) -> str:
            return "own"

    assert Above("a", 2).size == 2
    assert repr(Above("a")) == "own"
    assert repr(Base("a")).endswith("Base(name='a')")
    assert Above("a") != Base("a")
    with pytest.raises(TypeError, match="unhashable"):
        hash(Base("a"))

    class Own(Base):
        def __init__(self) -> None:
            super().__init__("own")

    assert Own().name == "own"


def test_fields_of_any_name() -> None:
    @dataclass
    class Named:
        kind: int
        cls: int
        args: int

    for _ in range(2):
        assert asdict(Named(kind=1, cls=2, args=3)) == {"kind": 1, "cls": 2, "args": 3}


def test_identity_stays_where_values_are_not_compared() -> None:
    @dataclass(eq=False)
    class Node:
        name: str

    one = Node("a")
    assert one != Node("a")
    assert len({one, one}) == 1


def test_methods_of_its_own_stay() -> None:
    @dataclass(frozen=True)
    class Word:
        text: str

        def __eq__(self, other: object) -> bool:
            return isinstance(other, Word) and other.text.lower() == self.text.lower()

    assert Word("a") == Word("A")
    assert {Word("a"): 1}[Word("a")] == 1

    @dataclass(frozen=True)
    class Hashed:
        text: str

        def __hash__(self) -> int:
            return 7

    assert hash(Hashed("a")) == 7
    assert Hashed("a") == Hashed("a") != Hashed("b")


def test_threads_that_come_first_together() -> None:
    """None of them sees a class that has some of its methods."""
    before = sys.getswitchinterval()
    sys.setswitchinterval(1e-6)
    try:
        with ThreadPoolExecutor(4) as pool:
            for _ in range(50):
                cls = frozen()
                assert set(pool.map(cls, "abababab")) == {cls("a"), cls("b")}
    finally:
        sys.setswitchinterval(before)


@pytest.mark.parametrize("made", [0, 40])
@pytest.mark.parametrize(
    ("given", "named"),
    [
        ((), {}),
        ((), {"rows": 1}),
        (("a", 1, 2), {}),
        (("a",), {"text": "b"}),
        (("a",), {"rows": 1}),
        ((), {"column": 1}),
    ],
)
def test_wrong_arguments_are_refused_alike(made: int, given: Any, named: Any) -> None:
    """By the first instance, which no compiled method makes, and by one of many."""
    cell = frozen()
    for _ in range(made):
        cell("a")
    with pytest.raises(TypeError, match=r"Cell\.__init__\(\)"):
        cell(*given, **named)


def test_each_instance_has_its_own_defaults() -> None:
    kept = [Kept(str(number)) for number in range(40)]
    for number, one in enumerate(kept):
        one.rows.append(number)
    assert [one.rows for one in kept] == [[number] for number in range(40)]
