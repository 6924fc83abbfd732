"""Words and sizes of the columns that are like those of strange tables."""

from __future__ import annotations

from collections.abc import Callable

PLACES = ("Harbour", "Mill", "Orchard", "Station", "Castle", "River", "Bridge", "Market", "Chapel", "Meadow")
THINGS = ("loader", "mixer", "dryer", "press", "sieve", "pump", "scale", "cutter", "roller", "washer")
FIRST = (
    "Nils",
    "Aino",
    "Marek",
    "Salma",
    "Ivo",
    "Keiko",
    "Bruno",
    "Leila",
    "Otto",
    "Freya",
    "Tariq",
    "Wanda",
)
LAST = (
    "Holm",
    "Virtanen",
    "Nowak",
    "Haddad",
    "Bianchi",
    "Mori",
    "Silva",
    "Rahimi",
    "Braun",
    "Lunde",
    "Aziz",
    "Kral",
)
COLOURS = ("amber", "teal", "olive", "maroon", "ivory", "slate", "rust", "plum")
VERBS = ("opened", "cleaned", "moved", "checked", "sold", "weighed", "packed", "dried")


def many(count: int, make: Callable[[], str]) -> list[str]:
    return [make() for _ in range(count)]


def size(draw: int) -> int:
    return (40, 75, 130, 260)[draw % 4]
