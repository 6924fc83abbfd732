"""Several values in a cell: lists, parts in their places, and pairs."""

from __future__ import annotations

from collections.abc import Callable
from random import Random

from tests.insight.corpus.specimen import (
    FORMS,
    GLAZES,
    POTTERS,
    Sheet,
    Specimen,
    alone,
    seeded,
    specimen,
    with_nulls,
)

from mangler.insight.columns.finding import Kind

LISTS, PAIRS = Kind.LISTS, Kind.PAIRS
PEOPLE = ("pim", "ines", "tove", "odd", "kofi", "studio", "kiln")


def _some(name: str, count: int, make: Callable[[Random], str]) -> list[str]:
    random = seeded(name)
    return [make(random) for _ in range(count)]


def _joined(random: Random, values: tuple[str, ...], mark: str, most: int = 4, least: int = 1) -> str:
    return mark.join(random.sample(values, random.randint(least, most)))


def _pairs(random: Random, marks: str, separator: str = ", ") -> str:
    return separator.join(
        f"{form}{random.choice(marks)}{random.randrange(1, 13)}"
        for form in random.sample(FORMS, random.randint(1, 3))
    )


def sheets() -> list[Sheet]:
    return alone([*_lists(), *_places(), *_with_pairs()])


def _lists() -> list[Specimen]:
    mail = tuple(f"{person}@example.org" for person in PEOPLE)
    return [
        specimen("semicolons", _some("a", 60, lambda r: _joined(r, GLAZES, "; ")), LISTS),
        specimen("bare semicolons", _some("b", 60, lambda r: _joined(r, GLAZES, ";")), LISTS),
        specimen("commas", _some("c", 60, lambda r: _joined(r, GLAZES, ", ")), LISTS),
        specimen("bars", _some("d", 60, lambda r: _joined(r, FORMS, "|")), LISTS),
        specimen("bars with spaces", _some("e", 40, lambda r: _joined(r, FORMS, " | ")), LISTS),
        specimen("mail", _some("f", 60, lambda r: _joined(r, mail, "; ", 3)), LISTS),
        specimen("mail with commas", _some("g", 60, lambda r: _joined(r, mail, ",", 3)), LISTS),
        specimen(
            "spaces vary", _some("h", 80, lambda r: _joined(r, GLAZES, r.choice((";", "; ", " ; ")))), LISTS
        ),
        specimen("slashes", _some("i", 60, lambda r: _joined(r, GLAZES, "/", 3)), LISTS),
        specimen(
            "ampersands",
            _some("j", 60, lambda r: _joined(r, ("ash", "iron", "tin", "salt"), " & ", 3)),
            LISTS,
        ),
        specimen(
            "plus signs", _some("k", 60, lambda r: _joined(r, ("ash", "iron", "tin", "salt"), "+", 3)), LISTS
        ),
        specimen(
            "lines", _some("l", 60, lambda r: _joined(r, ("ash", "iron", "tin", "salt"), "\n", 3)), LISTS
        ),
        specimen("a mark at the end", _some("m", 50, lambda r: _joined(r, GLAZES, ";") + ";"), LISTS),
        specimen(
            "with nulls", with_nulls("n", _some("n", 70, lambda r: _joined(r, GLAZES, "; ")), 0.3), LISTS
        ),
        specimen(
            "few have several",
            _some("o", 100, lambda r: _joined(r, GLAZES, ";", r.choice((1, 1, 1, 3)))),
            LISTS,
        ),
        specimen(
            "numbers",
            _some("p", 60, lambda r: ";".join(str(r.randrange(1, 20)) for _ in range(r.randint(1, 4)))),
            LISTS,
        ),
        specimen("people", _some("q", 60, lambda r: _joined(r, POTTERS, ", ", 3)), LISTS),
        specimen("always two", _some("r", 60, lambda r: _joined(r, GLAZES, ", ", 2, 2)), LISTS),
        specimen(
            "a null word among the parts",
            _some("s", 80, lambda r: _joined(r, (*GLAZES, "none"), "; ")),
            LISTS,
            Kind.NULL_WORDS,
        ),
        specimen(
            "letter case among the parts",
            _some("t", 80, lambda r: _joined(r, (*GLAZES, "Tenmoku"), "; ")),
            LISTS,
            Kind.LETTER_CASE,
        ),
        specimen(
            "a slip among the parts",
            [*_some("u", 80, lambda r: _joined(r, GLAZES, "; ")), "temoku; ash"],
            LISTS,
            Kind.NEAR_VARIANTS,
        ),
    ]


def _places() -> list[Specimen]:
    return [
        specimen(
            "shelves",
            _some("v", 60, lambda r: r.choice(("A/2/left", "A/1/right", "B/1", "B/2/left", "C"))),
            LISTS,
        ),
        specimen(
            "last name, first name",
            _some("w", 60, lambda r: ", ".join(reversed(r.choice(POTTERS).split(" ", 1)))),
            LISTS,
        ),
        specimen(
            "town and country",
            _some("x", 60, lambda r: r.choice(("Delft, NL", "Faenza, IT", "Stoke, UK", "Selb, DE"))),
            LISTS,
        ),
        specimen(
            "three places",
            _some("y", 60, lambda r: f"{r.choice('ABC')}|{r.randrange(1, 9)}|{r.choice(('left', 'right'))}"),
            LISTS,
        ),
        specimen(
            "sizes",
            _some("z", 60, lambda r: f"{r.randrange(5, 30)};{r.randrange(5, 30)};{r.randrange(5, 30)}"),
            LISTS,
        ),
    ]


def _with_pairs() -> list[Specimen]:
    return [
        specimen("equals", _some("za", 60, lambda r: _pairs(r, "=")), LISTS, PAIRS),
        specimen("colons", _some("zb", 60, lambda r: _pairs(r, ":", "; ")), LISTS, PAIRS),
        specimen("two marks", _some("zc", 80, lambda r: _pairs(r, "==-")), LISTS, PAIRS),
        specimen(
            "one pair a cell", _some("zd", 60, lambda r: f"{r.choice(FORMS)}={r.randrange(1, 9)}"), PAIRS
        ),
        specimen(
            "words as values",
            _some(
                "ze",
                60,
                lambda r: "; ".join(
                    f"{k}={r.choice(GLAZES)}" for k in r.sample(("inner", "outer", "rim"), 2)
                ),
            ),
            LISTS,
            PAIRS,
        ),
        specimen("a value missing", _some("zf", 80, lambda r: f"{_pairs(r, '=')}, lid="), LISTS, PAIRS),
        specimen(
            "a mark missing",
            _some("zg", 80, lambda r: f"{_pairs(r, '=')}{r.choice(('', ', lid'))}"),
            LISTS,
            PAIRS,
        ),
        specimen("bars between", _some("zh", 60, lambda r: _pairs(r, "=", "|")), LISTS, PAIRS),
    ]
