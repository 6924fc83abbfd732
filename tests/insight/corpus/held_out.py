"""Columns that no finder was tuned on: written before the finders were changed, and only measured afterwards.

Their words, forms and sizes are others than those of the rest of the corpus.
"""

from __future__ import annotations

from datetime import date, timedelta
from random import Random

from tests.insight.corpus.kinds import (
    BOOLEANS,
    CASE,
    DATES,
    LISTS,
    NEAR,
    NUMBERS,
    OUTER,
    OUTLIERS,
    WORDS,
    ZEROS,
    Pairs,
)
from tests.insight.corpus.meaning import NOTHING
from tests.insight.corpus.specimen import Sheet, Specimen, alone, meant, seeded, specimen

DRAWS = 6

TREES = ("alder", "beech", "cedar", "elm", "hazel", "juniper", "larch", "rowan", "spruce", "willow")
DISHES = ("soup", "stew", "salad", "dumpling", "pie", "porridge", "risotto", "omelette")
CITIES = (
    "Tarnby",
    "Oulton",
    "Veldheim",
    "Marsala Bay",
    "Port Idris",
    "Kestrel Hill",
    "Lower Wick",
    "Sankt Alm",
)
GIVEN = (
    "Dora",
    "Emil",
    "Farah",
    "Goran",
    "Hedda",
    "Isak",
    "Jamila",
    "Kaj",
    "Lena",
    "Mateo",
    "Nadia",
    "Oskar",
)
FAMILY = ("Alvarez", "Bakke", "Cerny", "Dahl", "Eklund", "Fischer", "Grimaldi", "Hughes", "Ivanova", "Jansen")
BIRDS = ("heron", "swift", "wren", "plover", "dunlin", "curlew")


def sheets() -> list[Sheet]:
    made: list[Specimen] = []
    for make in (_signs, _codes, _nulls, _texts, _cases, _slips, _amounts, _days, _several):
        for draw in range(DRAWS):
            made += make(seeded(f"held out {make.__name__} {draw}"), draw)
    return alone(made)


def _rows(draw: int) -> int:
    return (30, 55, 90, 150, 320, 45)[draw]


def _signs(r: Random, draw: int) -> list[Specimen]:
    n = range(_rows(draw))
    temperatures: Pairs = [
        (f"−{k}.{i % 10}", f"-{k}.{i % 10}") if (k := r.randint(-20, 20)) > 0 else (f"{-k}", f"{-k}")
        for i in n
    ]
    limits = [f"{r.choice(('≤', '≤', ''))}{r.randint(1, 50)}" for _ in n]
    plus: Pairs = [(f"+{k}" if k > 0 else str(k), str(k)) for k in (r.randint(-30, 30) for _ in n)]
    approx = [f"≈{r.randint(3, 40)}" for _ in n]
    errors = [f"{r.randint(3, 40)}±{r.randint(1, 3)}" for _ in n]
    floors = [r.choice(("G", "1", "2", "3", "B1", "B2")) for _ in n]
    gates = [f"{r.randint(1, 60)}{r.choice(('', '', 'A', 'B'))}" for _ in n]
    release = [f"v{r.randint(1, 3)}.{r.randint(0, 20)}" for _ in n]
    return [
        meant(f"temperatures {draw}", temperatures, NUMBERS),
        specimen(f"limits {draw}", limits, NUMBERS),
        meant(f"changes {draw}", plus, NUMBERS),
        specimen(f"estimates {draw}", approx, NUMBERS),
        specimen(f"measured with error {draw}", errors),
        specimen(f"floors {draw}", floors),
        specimen(f"gates {draw}", gates),
        specimen(f"tags of builds {draw}", release),
    ]


def _codes(r: Random, draw: int) -> list[Specimen]:
    n = range(_rows(draw))
    return [
        specimen(f"ledgers {draw}", [f"{r.randint(100000, 999999)}" for _ in n], NUMBERS),
        specimen(f"dial codes {draw}", [f"0{r.randint(20, 99)}" for _ in n], ZEROS),
        specimen(
            f"parcels {draw}", [f"{r.choice('PQR')}{r.randint(1000, 9999)}-{r.randint(10, 99)}" for _ in n]
        ),
        specimen(
            f"serials {draw}", ["".join(r.choice("ABCDEFGHJKLMNP23456789") for _ in range(10)) for _ in n]
        ),
        specimen(f"ids {draw}", [f"{r.getrandbits(64):016x}" for _ in n]),
        specimen(f"colour codes {draw}", [f"#{r.getrandbits(24):06X}" for _ in n]),
        specimen(
            f"servers {draw}", [f"10.{r.randint(0, 255)}.{r.randint(0, 255)}.{r.randint(1, 254)}" for _ in n]
        ),
        specimen(
            f"catalogue {draw}",
            [f"{r.randint(1, 9)}-{r.randint(100, 999)}-{r.randint(10000, 99999)}" for _ in n],
        ),
    ]


def _nulls(r: Random, draw: int) -> list[Specimen]:
    n = range(_rows(draw))

    def rarely(values: tuple[str, ...], word: str, at: int) -> Pairs:
        return [(word, NOTHING) if i % at == 3 else (v := r.choice(values), v) for i in n]

    lengths: Pairs = [("NULL", NOTHING) if i % 12 == 3 else (v := f"{r.uniform(1, 40):.1f}", v) for i in n]
    ages: Pairs = [("unknown", NOTHING) if i % 13 == 3 else (v := str(r.randint(18, 90)), v) for i in n]
    opened: Pairs = [
        ("n/a", NOTHING)
        if i % 10 == 3
        else (v := f"{date(2019, 1, 1) + timedelta(days=r.randrange(900))}", v)
        for i in n
    ]
    return [
        meant(f"trees or n/a {draw}", rarely(TREES, "n/a", 15), WORDS),
        meant(f"dishes or (null) {draw}", rarely(DISHES, "(null)", 14), WORDS),
        meant(f"cities or -- {draw}", rarely(CITIES, "--", 13), WORDS),
        meant(f"lengths or NULL {draw}", lengths, WORDS, NUMBERS),
        meant(f"ages or unknown {draw}", ages, WORDS, NUMBERS),
        meant(f"opened or n/a {draw}", opened, WORDS, DATES),
        specimen(f"damage {draw}", [r.choice(("none", "light", "heavy")) for _ in n], WORDS),
        specimen(f"chromosomes {draw}", [r.choice(("X", "Y", "21", "18", "MT")) for _ in n], WORDS),
        specimen(f"speakers {draw}", [r.choice(("TBD", "Dora", "Emil", "Farah")) for _ in n], WORDS),
        specimen(f"surnames {draw}", [*(r.choice(FAMILY) for _ in n), "Null", "Nan"], WORDS),
        specimen(
            f"answers {draw}", [r.choice(("true", "false", "missing", "blank")) for _ in n], WORDS, BOOLEANS
        ),
    ]


def _texts(r: Random, draw: int) -> list[Specimen]:
    n = range(_rows(draw))

    def note() -> str:
        return (
            f"We found {r.randint(2, 9)} {r.choice(TREES)} trees near {r.choice(CITIES)}; most were old, and one had"
            f" a {r.choice(BIRDS)} in it."
        )

    def song() -> str:
        kind, tree = r.choice(("Song", "Ballad", "Waltz")), r.choice(TREES).title()
        return f"{kind} of the {tree}, No. {r.randint(1, 20)} / {r.choice(GIVEN)}"

    def recipe_name() -> str:
        return f"{r.choice(TREES).title()} {r.choice(DISHES)} with {r.choice(DISHES)} and {r.choice(BIRDS)}"

    def mail() -> str:
        return r.choice(
            (
                "None of us can come, sorry!",
                "Null and void, they said; so what?",
                f"See you at {r.randint(1, 12)}, or later; {r.choice(GIVEN)} knows.",
                f"Thanks - {r.choice(GIVEN)}",
            )
        )

    return [
        specimen(f"field notes {draw}", [note() for _ in n]),
        specimen(f"songs {draw}", [song() for _ in n]),
        specimen(f"menus {draw}", [recipe_name() for _ in n]),
        specimen(f"messages {draw}", [mail() for _ in n]),
    ]


def _cases(r: Random, draw: int) -> list[Specimen]:
    n = range(_rows(draw))
    short: Pairs = [
        (v := r.choice(("USB", "LAN", "DVD", "usb", "Audio", "Video")), {"usb": "USB"}.get(v, v)) for _ in n
    ]
    names: Pairs = [
        (
            v := r.choice(("MacAdam", "LeRoy", "VanDyke", "Bakke", "Dahl", "macadam")),
            {"macadam": "MacAdam"}.get(v, v),
        )
        for _ in n
    ]
    amounts: Pairs = [(v := r.choice(("Mb", "MB", "kb", "GB")), v) for _ in n]
    birds: Pairs = [(v := r.choice((*BIRDS, *BIRDS, *BIRDS, "Heron")), v.lower()) for _ in n]
    cities: Pairs = [
        (
            v := r.choice((*CITIES, *CITIES, "tarnby", "OULTON")),
            {"tarnby": "Tarnby", "OULTON": "Oulton"}.get(v, v),
        )
        for _ in n
    ]
    return [
        meant(f"ports {draw}", short, *([CASE] if _both(short) else [])),
        meant(f"families with capitals {draw}", names, *([CASE] if _both(names) else [])),
        meant(f"sizes of files {draw}", amounts, *([CASE] if _both(amounts) else [])),
        meant(f"birds {draw}", birds, *([CASE] if _both(birds) else [])),
        meant(f"cities {draw}", cities, *([CASE] if _both(cities) else [])),
    ]


def _both(pairs: Pairs) -> bool:
    """Whether some value is there in two letter cases."""
    texts = {cell for cell, _ in pairs if cell}
    return len({text.lower() for text in texts}) < len(texts)


def _slips(r: Random, draw: int) -> list[Specimen]:
    n = range(max(_rows(draw), 100))
    tree = r.choice(("juniper", "hazelnut", "sycamore"))
    typed: Pairs = [(v := r.choice((tree, "beech", "cedar", "rowan")), v) for _ in n]
    typed[11] = (tree[:4] + tree[5:], tree)
    given = ("Lena", "Lene", "Lina", "Emil", "Emily", "Dora", "Nora", "Kaja", "Katja")
    parts = [f"{r.choice(('BRK', 'BRX', 'DRK'))}{r.choice('LMN')}{r.choice('OP')}" for _ in n]
    deeds = [r.choice(("casing", "caring", "caning", "casting")) for _ in n]
    return [
        meant(f"trees with a slip {draw}", typed, NEAR),
        specimen(f"given names {draw}", r.choices(given, (9, 1, 5, 9, 2, 7, 1, 5, 5), k=len(n))),
        specimen(f"brackets {draw}", parts),
        specimen(f"deeds {draw}", deeds),
    ]


def _amounts(r: Random, draw: int) -> list[Specimen]:
    n = range(_rows(draw))
    heights: Pairs = [(f"{k} cm", str(k)) for k in (r.randint(40, 210) for _ in n)]
    dollars: Pairs = [
        (f"${k:,}.{c:02}", f"{k}.{c:02}") for k, c in ((r.randint(1000, 90000), r.randint(0, 99)) for _ in n)
    ]
    rates: Pairs = [(f"{k / 10:.1f} %", f"{k / 10:.1f}") for k in (r.randint(1, 990) for _ in n)]
    comma: Pairs = [
        (f"{k / 100:.2f}".replace(".", ","), f"{k / 100:.2f}") for k in (r.randint(1, 9000) for _ in n)
    ]
    spaces: Pairs = [(f"{k:,}".replace(",", " "), str(k)) for k in (r.randint(1000, 990000) for _ in n)]
    tail: Pairs = [(v := f"{r.paretovariate(0.9):.2f}", v) for _ in n]
    present = [r.choice("01") for _ in n]
    stage = [r.choice("1234") for _ in n]
    padded: Pairs = [(f" {k} ", str(k)) for k in (r.randint(1, 99) for _ in n)]
    far: Pairs = [(v := str(r.randint(100, 140)), v) for _ in range(60)]
    far[17] = ("99000", "99000")
    return [
        meant(f"heights {draw}", heights, NUMBERS),
        meant(f"dollars {draw}", dollars, NUMBERS),
        meant(f"rates {draw}", rates, NUMBERS),
        meant(f"decimal comma {draw}", comma, NUMBERS),
        meant(f"groups by spaces {draw}", spaces, NUMBERS),
        meant(f"long tail {draw}", tail, NUMBERS),
        specimen(f"present {draw}", present, BOOLEANS),
        specimen(f"stages {draw}", stage, NUMBERS),
        meant(f"padded {draw}", padded, NUMBERS, OUTER),
        meant(f"one far out {draw}", far, NUMBERS, OUTLIERS),
    ]


def _days(r: Random, draw: int) -> list[Specimen]:
    n = range(_rows(draw))
    days = [date(2008 + draw, 3, 1) + timedelta(days=r.randrange(700)) for _ in n]
    old = [date(1935, 1, 1) + timedelta(days=r.randrange(14000)) for _ in n]
    slashes: Pairs = [(f"{d:%d/%m/%Y}", f"{d}") for d in days]
    long: Pairs = [(f"{d.day} {d:%B} {d.year}", f"{d}") for d in days]
    hyphens: Pairs = [(f"{d:%b}-{d:%d}-{d.year}", f"{d}") for d in days]
    two: Pairs = [(f"{d:%m/%d/%y}", f"{d}") for d in old]
    stamps: Pairs = [(v := f"{d:%Y-%m-%d} {r.randint(0, 23):02}:30:00", v) for d in days]
    zulu: Pairs = [(f"{d:%Y-%m-%d}T{r.randint(0, 23):02}:30:00Z", "") for d in days]
    zulu = [(cell, str(cell)) for cell, _ in zulu]
    zones: Pairs = [
        (v := f"{d:%Y-%m-%d} {r.randint(0, 23):02}:30:00{('+01:00', '-03:00')[i % 2]}", v)
        for i, d in enumerate(days)
    ]
    return [
        meant(f"visits {draw}", slashes, DATES),
        meant(f"meetings {draw}", long, DATES),
        meant(f"launches {draw}", hyphens, DATES),
        meant(f"births {draw}", two, DATES),
        meant(f"stamps {draw}", stamps, DATES),
        meant(f"stamps in UTC {draw}", zulu, DATES),
        meant(f"stamps in zones {draw}", zones, DATES),
        specimen(f"weeks {draw}", [f"{d.isocalendar().year}W{d.isocalendar().week:02}" for d in days]),
        specimen(f"seasons {draw}", [f"{d.year}/{(d.year + 1) % 100:02}" for d in days]),
    ]


def _several(r: Random, draw: int) -> list[Specimen]:
    n = range(_rows(draw))
    return [
        specimen(f"species seen {draw}", ["; ".join(r.sample(BIRDS, r.randint(1, 4))) for _ in n], LISTS),
        specimen(f"toppings {draw}", [", ".join(r.sample(DISHES, r.randint(1, 4))) for _ in n], LISTS),
        specimen(f"routes {draw}", [" | ".join(r.sample(CITIES, 2)) for _ in n], LISTS),
        specimen(f"files {draw}", [f"C:\\{r.choice(TREES)}\\{r.choice(BIRDS)}.csv" for _ in n]),
        specimen(
            f"pages {draw}",
            [f"https://example.org/{r.choice(TREES)}/{r.choice(BIRDS)}?p={r.randint(1, 9)}" for _ in n],
        ),
        specimen(
            f"spans of years {draw}",
            [f"{y}-{y + r.randint(1, 9)}" for y in (r.randint(1900, 1990) for _ in n)],
        ),
    ]
