"""Columns with which nothing is wrong: no finding, and no step."""

from __future__ import annotations

from tests.insight.corpus.specimen import (
    FORMS,
    FUELS,
    GLAZES,
    POTTERS,
    RESULTS,
    STUDIOS,
    Sheet,
    Specimen,
    alone,
    seeded,
    some,
    specimen,
    with_nulls,
)

from mangler.insight.columns.finding import Kind

NOTES = (
    "slow cooling overnight", "lid stuck, freed with a knife", "shelf 2 warped; replace before next firing",
    "test tiles on top", "glaze ran a little, as in spring", "door opened at 120 degrees",
    "first firing of the new kiln",
    "cone 6 bent, cone 7 did not", "props moved: see the drawing", "gas ran out - finished next day", "nothing to add",
    "ash deposits on the left", "reload, then fired again", "Ines asked for more shino next time",
)  # fmt: skip
REMARK_STARTS = ("The kiln", "Our new batch", "This load", "Half of it", "A shelf", "The left wall")
REMARK_ENDS = (
    "was slow to heat", "cooled well, for once", "needs repair; call the builder", "came out dry",
    "held at the top for an hour", "was packed too tight, sadly", "must be weighed",
)  # fmt: skip


def sheets() -> list[Sheet]:
    return alone([*_categories(), *_names(), *_codes(), *_prose(), *_addresses(), *_odd()])


def _categories() -> list[Specimen]:
    return [
        specimen("studios", some("studios", STUDIOS, 60)),
        specimen("glazes", some("glazes", GLAZES, 200)),
        specimen("forms with nulls", with_nulls("forms", some("forms", FORMS, 80), 0.2)),
        specimen("results", some("results", RESULTS, 45, (9, 3, 1, 1))),
        specimen("fuels", some("fuels", FUELS, 30)),
        specimen("sides", some("sides", ("left", "right", "middle"), 50)),
        specimen("compass", some("compass", ("north", "south", "east", "west"), 120)),
        specimen("sizes", some("sizes", ("S", "M", "L", "XL", "XXL"), 90)),
        specimen("sexes", some("sexes", ("female", "male"), 60)),
        specimen("grades", some("grades", ("A", "B", "C", "D"), 40)),
        specimen("signs", some("signs", ("+", "-", "++"), 60)),
        specimen("stars", some("stars", ("*", "**", "***", "****", "*****"), 70)),
        specimen("words alike", some("alike", ("staring", "starting", "sharing", "shaving", "shading"), 150)),
        specimen("singular, plural", some("plural", ("bowl", "bowls", "vase", "vases"), 100, (9, 5, 9, 4))),
        specimen("ranks", some("ranks", ("first", "second", "third"), 33)),
        specimen("one value", ["Clay Works"] * 25),
        specimen("countries", some("countries", ("NA", "DE", "FR", "SE", "NL", "ZA"), 80)),
        specimen("metals", some("metals", ("Na", "K", "Ca", "Mg", "Fe", "Co", "Cu"), 90)),
        specimen("levels", some("levels", ("low", "medium", "high", "very high"), 64)),
        specimen("colours", some("colours", ("blue", "green", "grey", "white", "brown", "red"), 250)),
        specimen("months", some("months", ("January", "February", "March", "April", "June", "July"), 66)),
        specimen("days", some("days", ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"), 66)),
        specimen("stages", some("stages", ("bisque", "glaze", "lustre", "test"), 400, (20, 20, 1, 3))),
        specimen(
            "rare and frequent", some("rare", ("celadon", "cobalt", "shino", "nuka"), 300, (90, 90, 2, 1))
        ),
    ]


def _names() -> list[Specimen]:
    random = seeded("people")
    firsts = [name.split()[0] for name in POTTERS]
    lasts = [name.split(" ", 1)[1] for name in POTTERS]
    people = [f"{random.choice(firsts)} {random.choice(lasts)}" for _ in range(90)]
    titled = [f"{random.choice(('Dr. ', 'Ms. ', '', ''))}{person}" for person in people]
    initials = [f"{random.choice(firsts)} {random.choice('KMJT')}. {random.choice(lasts)}" for _ in range(60)]
    return [
        specimen("potters", some("potters", POTTERS, 100)),
        specimen("first names", some("first", firsts, 80)),
        specimen("last names", some("last", lasts, 80)),
        specimen("people", people),
        specimen("people with titles", titled),
        specimen("people with initials", initials),
        specimen("names of two parts", some("two", ("Anna-Lena", "Jean-Luc", "Mary", "Ko-Eun"), 40)),
        specimen("names with marks", some("marked", ("O'Neill", "D'Arcy", "Smith-Jones", "de la Cruz"), 60)),
        specimen("other scripts", some("scripts", ("窯", "茶碗", "花瓶", "皿"), 50)),
        specimen("accents", some("accents", ("Zoë", "Émile", "Åsa", "Łukasz", "José"), 70)),
        specimen("greek", some("greek", ("κεραμικά", "βάζο", "κούπα"), 30)),
    ]


def _codes() -> list[Specimen]:
    random = seeded("codes")
    return [
        specimen("firing ids", [f"F18-{n:04}" for n in range(1, 61)]),
        specimen("letters and digits", [f"K{random.randrange(100, 999)}" for _ in range(80)]),
        specimen("post codes", [f"{random.randrange(10115, 99998)}" for _ in range(60)], Kind.NUMBERS),
        specimen("telephones", [f"+49{random.randrange(10**8, 10**9)}" for _ in range(40)]),
        specimen("long numbers", [f"{random.randrange(10**19, 10**20)}" for _ in range(30)]),
        specimen("article numbers", [f"4{random.randrange(10**11, 10**12)}" for _ in range(50)]),
        specimen("hexadecimal", [f"{random.getrandbits(32):08x}" for _ in range(60)]),
        specimen("base 64", ["".join(random.choices("abcABCxyzXYZ019", k=8)) for _ in range(80)]),
        specimen(
            "uuids",
            [
                f"{random.getrandbits(32):08x}-{random.getrandbits(16):04x}-4a{random.getrandbits(8):02x}"
                for _ in range(40)
            ],
        ),
        specimen("invoices", [f"INV/2026/{n:03}" for n in range(1, 50)]),
        specimen("versions", some("versions", ("1.2.3", "1.2.4", "2.0.0", "2.1.0", "1.10.0"), 45)),
        specimen("tags", some("tags", ("A1", "A2", "B1", "B2", "C1", "C3"), 70)),
        specimen(
            "network addresses", [f"10.0.{random.randrange(255)}.{random.randrange(255)}" for _ in range(50)]
        ),
        specimen("sections", some("sections", ("1.1.1", "1.1.2", "1.2.1", "2.1.1"), 30)),
        specimen(
            "plates",
            [
                f"{random.choice(('HH', 'B', 'KI'))}-{random.choice(('AB', 'XY'))} {random.randrange(100, 999)}"
                for _ in range(40)
            ],
        ),
        specimen("ranges", some("ranges", ("1-5", "6-10", "11-20", "21-50"), 60)),
        specimen("ratios", some("ratios", ("1:2", "1:3", "2:5", "3:4"), 30)),
    ]


def _prose() -> list[Specimen]:
    random = seeded("prose")
    remarks = [f"{random.choice(REMARK_STARTS)} {random.choice(REMARK_ENDS)}." for _ in range(70)]
    longer = [f"{random.choice(remarks)} {random.choice(NOTES)}." for _ in range(50)]
    lines = [f"{random.choice(NOTES)}\n{random.choice(NOTES)}" for _ in range(30)]
    return [
        specimen("notes", with_nulls("notes", some("notes", NOTES, 60), 0.4)),
        specimen("remarks", remarks),
        specimen("longer remarks", longer),
        specimen("remarks of several lines", lines),
        specimen(
            "batch notes", [f'batch: {random.randrange(9, 40)} "speckled" end of batch' for _ in range(40)]
        ),
        specimen(
            "titles of pieces",
            [f"{random.choice(FORMS).title()} in {random.choice(GLAZES)}, no. {n}" for n in range(1, 41)],
        ),
        specimen("questions", some("questions", ("Why so slow?", "Who loaded it?", "Is it dry?"), 30)),
        specimen("quotes", some("quotes", ('"not again"', '"well done"', "'try it'"), 24)),
    ]


def _addresses() -> list[Specimen]:
    random = seeded("addresses")
    return [
        specimen(
            "mail", [f"{random.choice(('pim', 'ines', 'tove', 'odd'))}{n}@example.org" for n in range(60)]
        ),
        specimen(
            "pages", [f"https://example.org/kilns/{n}/log?week={random.randrange(1, 53)}" for n in range(40)]
        ),
        specimen("paths", [f"/srv/logs/2026/week-{n:02}.csv" for n in range(1, 40)]),
        specimen("windows paths", [f"C:\\logs\\week-{n:02}.csv" for n in range(1, 30)]),
        specimen("files", [f"clayworks-week-{n}.csv" for n in range(1, 40)]),
        specimen(
            "streets",
            [
                f"{random.choice(('Kiln Lane', 'Old Street', 'Quay Road'))} {random.randrange(1, 200)}"
                for _ in range(60)
            ],
        ),
        specimen("towns", some("towns", ("Delft", "Faenza", "Höganäs", "Stoke", "Limoges"), 55)),
    ]


def _odd() -> list[Specimen]:
    return [
        specimen("no rows", []),
        specimen("nulls only", [None] * 20),
        specimen("one cell", ["Clay Works"]),
        specimen("two cells", ["gas", "wood"]),
        specimen("one cell among nulls", [None] * 9 + ["refire"]),
        specimen("symbols", some("symbols", ("☀", "☁", "☂"), 30)),
        specimen("formulas", some("formulas", ("SiO2", "Al2O3", "CaO", "K2O", "Fe2O3"), 60)),
        specimen(
            "chords of one slash", some("chords", ("gas/wood", "gas", "wood", "electric"), 40, (1, 9, 9, 9))
        ),
    ]
