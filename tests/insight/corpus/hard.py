"""Columns that are easily taken for something else."""

from __future__ import annotations

from tests.insight.corpus.specimen import Sheet, Specimen, alone, seeded, some, specimen

from mangler.insight.columns.finding import Kind

NUMBERS, LISTS, WORDS, DATES, NEAR = Kind.NUMBERS, Kind.LISTS, Kind.NULL_WORDS, Kind.DATES, Kind.NEAR_VARIANTS
RARELY = (60, 3, 60)


def sheets() -> list[Sheet]:
    return alone([*_no_slips(), *_no_numbers(), *_no_lists(), *_after_all()])


def _no_slips() -> list[Specimen]:
    return [
        specimen("kilns by letter", some("kilns by letter", ("Kiln A", "Kiln B", "Kiln C"), 123, RARELY)),
        specimen("two kilns", some("two kilns", ("Kiln A", "Kiln B", "Old kiln"), 123, RARELY)),
        specimen("ways of the wind", some("wind", ("north-east", "north-west", "calm"), 123, RARELY)),
        specimen("quarters", some("quarters", ("north-east", "north-west", "south-east"), 123, RARELY)),
        specimen("roman numbers", some("roman", ("I", "II", "III", "IV", "VIII", "XVIII"), 90)),
        specimen("weeks", some("weeks", ("week 1", "week 2", "week 11"), 123, RARELY)),
        specimen("in and out", some("in and out", ("inlet", "outlet", "both"), 123, RARELY)),
        specimen("active", some("active", ("active", "inactive", "sold"), 123, RARELY)),
        specimen("plural rarely", some("plural rarely", ("teapot", "teapots", "vase"), 123, RARELY)),
        specimen(
            "left and right", some("left and right", ("top left", "top right", "bottom left"), 123, RARELY)
        ),
        specimen("two kinds of clay", some("clays", ("stoneware", "earthenware", "porcelain"), 123, RARELY)),
        specimen("clay with grog", some("grog", ("clay 1a", "clay 1b", "clay 2a"), 123, RARELY)),
    ]


def _no_numbers() -> list[Specimen]:
    random = seeded("no numbers")
    return [
        specimen("weeks of the year", [f"2026-W{week:02}" for week in range(1, 53)]),
        specimen("quarters of years", some("years", ("Q1 2026", "Q2 2026", "Q3 2025"), 40)),
        specimen("months", some("months of years", ("2026-04", "2026-05", "2026-06"), 40)),
        specimen("spans", some("spans", ("1999-2004", "2004-2011", "2011-2020"), 40)),
        specimen("hours", some("hours", ("18:30-20:00", "09:00-12:00", "14:00-17:30"), 40)),
        specimen("sizes", [f"{random.randrange(5, 40)} x {random.randrange(5, 40)} x 12" for _ in range(40)]),
        specimen("colours by number", [f"#{random.getrandbits(24):06x}" for _ in range(40)]),
        specimen("durations", [f"{random.randrange(1, 9)}h{random.randrange(10, 60)}m" for _ in range(40)]),
        specimen("ordinals", some("ordinals", ("1st", "2nd", "3rd", "4th", "5th"), 50)),
        specimen("fractions", some("fractions", ("1/2", "1/4", "3/4", "2/3"), 50)),
        specimen("paper", some("paper", ("A3", "A4", "A5", "B5"), 50)),
        specimen(
            "numbers of houses", [f"{random.randrange(1, 99)}{random.choice('abcde')}" for _ in range(60)]
        ),
        specimen("about", [f"about {random.randrange(5, 90)}" for _ in range(40)]),
    ]


def _no_lists() -> list[Specimen]:
    random = seeded("no lists")
    streets = ("Kiln Lane", "Old Street", "Quay Road")
    halves = [(a, b) for a in ("dry", "wet", "warm") for b in ("fine", "cracked", "glazed", "sold")]
    return [
        specimen("objects", [f'{{"rows": {random.randrange(9)}, "wide": {random.randrange(9)}}}' for _ in range(40)]),
        specimen("addresses", [f"{random.choice(streets)} {n}, 12{n} AB Delft" for n in range(10, 60)]),
        specimen("companies", some("companies", ("Hill & Sons", "Clay Ltd.", "Old Dairy, Inc."), 60)),
        specimen("rarely with a comma", [*some("commas", ("good", "cracked"), 80), "good, mostly", "cracked, alas"]),
        specimen("sentences; two each", [f"It was {a}; it is {b} now." for a, b in halves]),
        specimen("tags of pages", some("tags of pages", ("<b>good</b>", "<i>cracked</i>", "<b>warped</b>"), 40)),
        specimen("either or", some("either or", ("and/or", "yes/no", "he/she"), 3)),
        specimen("units", some("units", ("kg/m", "g/l", "m/s"), 50)),
    ]  # fmt: skip


def _after_all() -> list[Specimen]:
    random = seeded("after all")
    places = [f"{random.uniform(50, 53):.4f}, {random.uniform(3, 7):.4f}" for _ in range(40)]
    numbers = [",".join(str(random.randrange(1, 9)) for _ in range(random.randint(1, 5))) for _ in range(80)]
    prices = [f"{random.uniform(5, 90):.2f}" for _ in range(60)]
    return [
        specimen("places on earth", places, LISTS),
        specimen("lists of numbers", numbers, LISTS),
        specimen("mostly dashes", ["-"] * 60 + some("mostly", ("cracked", "warped"), 20), WORDS),
        specimen("only n/a", ["n/a"] * 30, WORDS),
        specimen("minutes", [f"{random.randrange(5, 90)} min" for _ in range(40)], NUMBERS),
        specimen("degrees east", [f"{random.uniform(-7, 7):.5f}" for _ in range(60)], NUMBERS),
        specimen("slip in two words", [*some("two words", ("Hill Street", "Old Dairy"), 80), "Hill Steet"], NEAR),
        specimen("dates and a dash", [*(f"{d}.5.2026" for d in range(1, 29)), "-", "-"], DATES, WORDS),
        specimen("free among prices", [*prices, "free", "free", "free"], NUMBERS, WORDS),
    ]  # fmt: skip
