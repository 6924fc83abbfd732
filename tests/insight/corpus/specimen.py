"""A small made-up column with what is wrong with it, known beforehand."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from random import Random
from typing import Any

from mangler.insight.columns.finding import Kind

Cells = list[str | None]
POTTERS = (
    "Ines Kallo", "Tove Aslan", "Pim Verhoe", "Anouk Lindqvist", "Lars Ó Briain", "Mirela Marchetti", "Odd Sato",
    "Zoë Danso", "Bao Weber", "Kofi Nagy", "Ruth Hartono", "Émile Okafor", "Sanna Brandt", "Yusuf Petrov",
)  # fmt: skip
STUDIOS = ("Clay Works", "Quayside", "Hill Street", "Old Dairy", "Brickfield", "North Yard")
GLAZES = ("celadon", "tenmoku", "shino", "cobalt", "ash", "chun", "kaki", "nuka")
FORMS = ("bowl", "vase", "mug", "plate", "tile", "teapot")
RESULTS = ("good", "cracked", "warped", "refire")
FUELS = ("gas", "electric", "wood")


@dataclass(frozen=True)
class Specimen:
    """One column of a table; `kinds` are all the findings that it should have, and no others.

    `truth` is what each cell means; without it, the cells mean what they say.
    """

    name: str
    cells: Cells
    kinds: frozenset[Kind]
    truth: tuple[Any, ...] = ()


@dataclass(frozen=True)
class Sheet:
    """A table of specimens, which are looked at together."""

    columns: tuple[Specimen, ...]


_draw = 0


def draw(number: int) -> None:
    """Chooses which of endless corpora is made: the same faults in other cells."""
    global _draw
    _draw = number


def seeded(name: str) -> Random:
    return Random(f"{name} {_draw}")


def specimen(name: str, cells: Sequence[str | None], *kinds: Kind) -> Specimen:
    return Specimen(name, list(cells), frozenset(kinds))


def meant(name: str, pairs: Sequence[tuple[str | None, Any]], *kinds: Kind) -> Specimen:
    """A column of cells, each with what it means."""
    return Specimen(name, [cell for cell, _ in pairs], frozenset(kinds), tuple(truth for _, truth in pairs))


def alone(specimens: Sequence[Specimen]) -> list[Sheet]:
    """Each in a table of its own."""
    return [Sheet((one,)) for one in specimens]


def some(name: str, values: Sequence[str], count: int, weights: Sequence[float] | None = None) -> list[str]:
    """Values drawn with a seed of the column's name."""
    return seeded(name).choices(values, weights, k=count)


def spoilt(name: str, cells: Sequence[str | None], share: float, spoil: Callable[[str], str | None]) -> Cells:
    """Some of the cells spoilt, at least two."""
    random = seeded(f"{name} spoilt")
    hit = set(random.sample(range(len(cells)), max(2, round(share * len(cells)))))
    return [spoil(cell or "") if index in hit else cell for index, cell in enumerate(cells)]


def with_nulls(name: str, cells: Sequence[str | None], share: float) -> Cells:
    random = seeded(f"{name} nulls")
    return [None if random.random() < share else cell for cell in cells]
