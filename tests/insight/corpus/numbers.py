"""Text that is really numbers, and digits that are none."""

from __future__ import annotations

from collections.abc import Callable
from random import Random

from tests.insight.corpus.specimen import (
    Cells,
    Sheet,
    Specimen,
    alone,
    seeded,
    some,
    specimen,
    spoilt,
    with_nulls,
)

from mangler.insight.columns.finding import Kind

NUMBERS, ZEROS, OUTLIERS = Kind.NUMBERS, Kind.LEADING_ZEROS, Kind.OUTLIERS


def _some(name: str, count: int, make: Callable[[Random], str]) -> list[str]:
    random = seeded(name)
    return [make(random) for _ in range(count)]


def _normal(name: str, count: int, middle: float, spread: float, places: int = 0) -> list[str]:
    return _some(name, count, lambda random: f"{random.gauss(middle, spread):.{places}f}")


def sheets() -> list[Sheet]:
    return alone([*_plain(), *_marked(), *_with_units(), *_leading_zeros(), *_outliers()])


def _plain() -> list[Specimen]:
    return [
        specimen("counts", _some("a", 60, lambda r: str(r.randrange(1, 40))), NUMBERS),
        specimen("signed", _some("b", 60, lambda r: str(r.randrange(-40, 40))), NUMBERS),
        specimen("decimals", _some("c", 60, lambda r: f"{r.uniform(0, 90):.2f}"), NUMBERS),
        specimen("floats", _some("d", 40, lambda r: f"{r.uniform(1, 9):.3e}"), NUMBERS),
        specimen("years", _some("e", 50, lambda r: str(r.randrange(1960, 2027))), NUMBERS),
        specimen(
            "with nulls", with_nulls("f", _some("f", 50, lambda r: str(r.randrange(9, 400))), 0.3), NUMBERS
        ),
        specimen("numbers of rows", [str(n) for n in range(1, 80)], NUMBERS),
        specimen("below one", _some("g", 50, lambda r: f"0.{r.randrange(10, 99)}"), NUMBERS),
        specimen("long tail", _some("h", 200, lambda r: str(int(r.lognormvariate(4, 1.2)))), NUMBERS),
        specimen("even", _some("i", 150, lambda r: str(r.randrange(0, 1000))), NUMBERS),
        specimen("mostly nought", some("j", ("0", "1", "2", "3"), 90, (20, 3, 2, 1)), NUMBERS),
        specimen("a few", ["12", "7", "31"], NUMBERS),
    ]


def _marked() -> list[Specimen]:
    return [
        specimen(
            "decimal comma", _some("k", 60, lambda r: f"{r.uniform(0, 90):.2f}".replace(".", ",")), NUMBERS
        ),
        specimen("comma grouping", _some("l", 60, lambda r: f"{r.randrange(500, 90000):,}"), NUMBERS),
        specimen("comma grouping, places", _some("m", 60, lambda r: f"{r.uniform(100, 9000):,.2f}"), NUMBERS),
        specimen(
            "point grouping",
            _some("n", 60, lambda r: f"{r.randrange(500, 90000):,}".replace(",", ".")),
            NUMBERS,
        ),
        specimen(
            "point grouping, comma",
            _some("o", 60, lambda r: f"{r.uniform(100, 9000):,.2f}".translate(str.maketrans(",.", ".,"))),
            NUMBERS,
        ),
        specimen(
            "space grouping",
            _some("p", 60, lambda r: f"{r.randrange(500, 90000):,}".replace(",", " ")),
            NUMBERS,
        ),
        specimen(
            "apostrophe grouping",
            _some("q", 40, lambda r: f"{r.randrange(500, 90000):,}".replace(",", "'")),
            NUMBERS,
        ),
        specimen("as in the log", some("r", ("1222", "1.222", "998", "1.060", "1285"), 60), NUMBERS),
        specimen(
            "ambiguous", _some("s", 30, lambda r: f"{r.randrange(1, 9)}.{r.randrange(100, 999)}"), NUMBERS
        ),
        specimen("plus signs", _some("t", 40, lambda r: f"+{r.randrange(1, 90)}"), NUMBERS),
        specimen("three places", _some("u", 50, lambda r: f"{r.uniform(0, 3):.3f}"), NUMBERS),
        specimen("millions", _some("v", 40, lambda r: f"{r.randrange(10**5, 10**8):,}"), NUMBERS),
    ]


def _with_units() -> list[Specimen]:
    return [
        specimen("degrees", _some("w", 60, lambda r: f"{r.randrange(900, 1300)} °C"), NUMBERS),
        specimen(
            "some with a unit",
            _some("x", 60, lambda r: f"{r.randrange(900, 1300)}{r.choice(('', ' °C'))}"),
            NUMBERS,
        ),
        specimen("kilograms", _some("y", 60, lambda r: f"{r.uniform(0, 30):.1f} kg"), NUMBERS),
        specimen("without a space", _some("z", 60, lambda r: f"{r.randrange(5, 80)}cm"), NUMBERS),
        specimen(
            "two units", _some("za", 60, lambda r: f"{r.randrange(5, 80)} {r.choice(('kg', 'g'))}"), NUMBERS
        ),
        specimen("euros", _some("zb", 60, lambda r: f"€ {r.uniform(2, 90):.2f}"), NUMBERS),
        specimen(
            "euros after", _some("zc", 60, lambda r: f"{r.uniform(2, 90):.2f} €".replace(".", ",")), NUMBERS
        ),
        specimen("dollars", _some("zd", 60, lambda r: f"${r.randrange(200, 9000):,}"), NUMBERS),
        specimen("code of a currency", _some("ze", 60, lambda r: f"EUR {r.randrange(20, 900)}"), NUMBERS),
        specimen("per cent", _some("zf", 60, lambda r: f"{r.randrange(0, 100)} %"), NUMBERS),
        specimen("litres", _some("zg", 40, lambda r: f"{r.randrange(60, 900)} l"), NUMBERS),
        specimen(
            "no-break space before the unit",
            _some("zh", 40, lambda r: f"{r.randrange(900, 1300)}\u00a0°C"),
            NUMBERS,
            Kind.INNER_SPACE,
            Kind.UNUSUAL_SPACE,
        ),
        specimen("one is none", [*_some("zi", 50, lambda r: str(r.randrange(10, 90))), "about 12"], NUMBERS),
        specimen("trimmed it is a number", [f" {n} " for n in range(10, 50)], NUMBERS, Kind.OUTER_SPACE),
    ]


def _leading_zeros() -> list[Specimen]:
    return [
        specimen("kilns", some("zj", ("007", "012", "031", "044"), 60), ZEROS),
        specimen("cones", some("zk", ("06", "6", "10", "04", "9"), 60), ZEROS),
        specimen("post codes", _some("zl", 60, lambda r: f"{r.randrange(1000, 99999):05}"), ZEROS),
        specimen("numbers of people", [f"{n:06}" for n in range(1, 60)], ZEROS),
        specimen("telephones", _some("zm", 40, lambda r: f"0{r.randrange(10**8, 10**9)}"), ZEROS),
        specimen("few zeros", some("zn", ("12", "115", "003", "44"), 60, (9, 9, 1, 9)), ZEROS),
        specimen("with nulls", with_nulls("zo", some("zo", ("01", "02", "03"), 60), 0.2), ZEROS),
    ]


def _outliers() -> list[Specimen]:
    def put(name: str, cells: list[str], *values: str) -> Cells:
        random = seeded(f"{name} far")
        out: Cells = list(cells)
        for value in values:
            out[random.randrange(len(out))] = value
        return out

    return [
        specimen("a digit more", put("1", _normal("1", 60, 1222, 20), "12222"), NUMBERS, OUTLIERS),
        specimen("a digit less", put("2", _normal("2", 60, 1222, 20), "122"), NUMBERS, OUTLIERS),
        specimen("two far out", put("3", _normal("3", 200, 50, 5), "500", "480"), NUMBERS, OUTLIERS),
        specimen("below nought", put("4", _normal("4", 100, 1222, 20), "-1222"), NUMBERS, OUTLIERS),
        specimen("a point left out", put("5", _normal("5", 80, 12, 1, 2), "1231"), NUMBERS, OUTLIERS),
        specimen("nought among hundreds", put("6", _normal("6", 90, 800, 25), "0"), NUMBERS, OUTLIERS),
        specimen("of a thousand", put("7", _normal("7", 1000, 40, 4), "4000"), NUMBERS, OUTLIERS),
        specimen(
            "with units", [*(f"{n} °C" for n in _normal("8", 60, 1222, 20)), "12220 °C"], NUMBERS, OUTLIERS
        ),
        specimen("bell", _normal("9", 300, 100, 15), NUMBERS),
        specimen("bell with places", _normal("10", 400, 12, 1, 2), NUMBERS),
        specimen("two hills", [*_normal("11", 60, 998, 5), *_normal("12", 60, 1222, 5)], NUMBERS),
        specimen(
            "spoilt twice",
            spoilt("13", _normal("13", 120, 300, 9), 0.01, lambda _: "30000"),
            NUMBERS,
            OUTLIERS,
        ),
    ]
