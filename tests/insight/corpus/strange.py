"""Columns like those of tables that nobody here made, with what each cell means; the finders were tuned on these.

Each family comes in several draws of words and sizes, so that a rule that fits one by chance fails at another.
"""

from __future__ import annotations

from collections.abc import Callable
from random import Random

from tests.insight.corpus.kinds import BOOLEANS, CASE, NEAR, NUMBERS, WORDS, ZEROS, Pairs
from tests.insight.corpus.meaning import NOTHING
from tests.insight.corpus.specimen import Sheet, Specimen, alone, meant, seeded, specimen
from tests.insight.corpus.strange_dates import dates, lists
from tests.insight.corpus.strange_words import COLOURS, FIRST, LAST, PLACES, THINGS, VERBS, many, size


def sheets() -> list[Sheet]:
    made: list[Specimen] = []
    for family in FAMILIES:
        for draw in range(family.draws):
            made += family.make(seeded(f"strange {family.make.__name__} {draw}"), draw)
    return alone(made)


class Family:
    def __init__(self, make: Callable[[Random, int], list[Specimen]], draws: int) -> None:
        self.make, self.draws = make, draws


# Signs and letters beside numbers that are no unit


def beside_numbers(r: Random, draw: int) -> list[Specimen]:
    n = size(draw)
    minus: Pairs = [
        (text, text.replace("−", "-"))
        for text in many(n, lambda: f"{r.choice(('', '', '−'))}{r.randint(1, 90)}")
    ]
    dash: Pairs = [
        (text, text.replace("–", "-"))
        for text in many(n, lambda: f"{r.choice(('', '–'))}{r.uniform(0, 9):.1f}")
    ]
    below = many(n, lambda: f"{r.choice(('', '', '<', '<'))}{r.uniform(0.01, 9):.2f}")
    above = many(n, lambda: f"{r.choice(('', '>', '>'))}{r.randint(10, 999)}")
    about = many(n, lambda: f"{r.choice(('', '~'))}{r.randint(1, 99)}")
    ordinals = many(
        n,
        lambda: (
            lambda k: f"{k}{'th' if 10 < k % 100 < 14 else {1: 'st', 2: 'nd', 3: 'rd'}.get(k % 10, 'th')}"
        )(r.randint(1, 60)),
    )
    letters = many(n, lambda: f"{r.randint(1, 40)}{r.choice('ABCD')}")
    before = many(n, lambda: f"{r.choice('ABCDEF')}{r.randint(1, 40)}")
    versions = many(n, lambda: f"{r.randint(10, 24)}.{r.choice(('04', '10'))}")
    dotted = many(n, lambda: f"{r.randint(1, 4)}.{r.randint(0, 12)}.{r.randint(0, 9)}")
    bracketed: Pairs = [
        (text, "-" + text.strip("()") if text.startswith("(") else text)
        for text in many(n, lambda: (lambda k: f"({k})" if r.random() < 0.2 else f"{k}")(r.randint(5, 900)))
    ]
    negative_money: Pairs = [
        (text, text) for text in many(n, lambda: f"{r.randint(-500, 900)}.{r.randint(10, 99)}")
    ]
    return [
        meant(f"minus signs {draw}", minus, NUMBERS),
        meant(f"dashes as minus {draw}", dash, NUMBERS),
        specimen(f"below the limit {draw}", below, NUMBERS),
        specimen(f"more than {draw}", above, NUMBERS),
        specimen(f"about so many {draw}", about, NUMBERS),
        specimen(f"places in a race {draw}", ordinals),
        specimen(f"house numbers {draw}", letters),
        specimen(f"seats {draw}", before),
        specimen(f"releases {draw}", versions),
        specimen(f"versions {draw}", dotted),
        meant(f"accounting {draw}", bracketed, NUMBERS),
        meant(f"money {draw}", negative_money, NUMBERS),
    ]


# Words that seem to mean null


def words_as_levels(r: Random, draw: int) -> list[Specimen]:
    n = size(draw)
    levels = lambda *names: many(n, lambda: r.choice(names))  # noqa: E731
    return [
        specimen(f"spare parts kept {draw}", levels("None", "Some", "All"), WORDS),
        specimen(f"genotypes {draw}", levels("X", "Y", "XX", "XY"), WORDS),
        specimen(f"markings {draw}", levels("X", "O"), WORDS),
        specimen(f"sponsors {draw}", levels("TBA", "ABB", "SKF", "BASF"), WORDS),
        specimen(f"ladders {draw}", levels("NUL", "EEN", "TWEE"), WORDS),
        specimen(f"states {draw}", levels("ND", "SD", "MN", "WI", "IA"), WORDS),
        specimen(f"grades {draw}", levels("A", "B", "C", "NA", "D"), WORDS),
        specimen(f"replies {draw}", levels("yes", "no", "unknown"), WORDS, BOOLEANS),
        specimen(f"status of orders {draw}", levels("pending", "sent", "paid"), WORDS),
        specimen(f"empty or full {draw}", levels("empty", "half", "full"), WORDS),
    ]


def words_in_names(r: Random, draw: int) -> list[Specimen]:
    people = [f"{first} {last}" for first in FIRST for last in LAST]
    r.shuffle(people)
    codes = [f"{a}{b}{c}" for a in "NKT" for b in "ADU" for c in "ALN"]
    r.shuffle(codes)
    family = [*r.sample(LAST, 8), "Null", "Nan"]
    return [
        specimen(f"family names {draw}", many(size(draw), lambda: r.choice(family)), WORDS),
        specimen(f"airports {draw}", [*codes, "NAN", "NUL", "TBA"], WORDS),
        specimen(f"visitors {draw}", [*people[: 30 + draw], "Void", "Nil"], WORDS),
    ]


def words_that_mean_null(r: Random, draw: int) -> list[Specimen]:
    n = size(draw)

    def put(values: tuple[str, ...], word: str, share: float) -> Pairs:
        return [
            (word, NOTHING) if r.random() < share or i < 3 else (v := r.choice(values), v) for i in range(n)
        ]

    def number() -> str:
        return str(r.randint(1, 900))

    amounts: Pairs = [("n/a", NOTHING) if i % 9 == 4 else (v := number(), v) for i in range(n)]
    missing: Pairs = [("missing", NOTHING) if i % 11 == 4 else (v := number(), v) for i in range(n)]
    dashes: Pairs = [("-", NOTHING) if i % 8 == 4 else (v := number(), v) for i in range(n)]
    r_table: Pairs = [("NA", NOTHING) if i % 6 == 4 else (v := f"{r.uniform(0, 9):.2f}", v) for i in range(n)]
    return [
        meant(f"places or n/a {draw}", put(PLACES, "n/a", 0.06), WORDS),
        meant(f"places or null {draw}", put(PLACES, "NULL", 0.05), WORDS),
        meant(f"things or a dash {draw}", put(THINGS, "-", 0.07), WORDS),
        meant(f"things or ? {draw}", put(THINGS, "?", 0.06), WORDS),
        meant(f"amounts or n/a {draw}", amounts, WORDS, NUMBERS),
        meant(f"amounts missing {draw}", missing, WORDS, NUMBERS),
        meant(f"amounts or dashes {draw}", dashes, WORDS, NUMBERS),
        meant(f"readings or NA {draw}", r_table, WORDS, NUMBERS),
    ]


# Free text


def free_text(r: Random, draw: int) -> list[Specimen]:
    n = size(draw)

    def sentence() -> str:
        thing, place = r.choice(THINGS), r.choice(PLACES).lower()
        return f"The {thing} at the {place} was {r.choice(VERBS)}, then {r.choice(VERBS)} again."

    def title() -> str:
        return f"The {r.choice(COLOURS).title()} {r.choice(PLACES)}; or, {r.choice(FIRST)} and the {r.choice(THINGS)}"

    def film() -> str:
        return f"{r.choice(FIRST)} & {r.choice(FIRST)}: {r.choice(PLACES)} {r.randint(1, 3)}"

    def question() -> str:
        return (
            f"Have you {r.choice(VERBS)} a {r.choice(COLOURS)} {r.choice(THINGS)}? If so, when / how often?"
        )

    def log() -> str:
        return f"{r.choice(VERBS)} {r.choice(THINGS)} ({r.choice(COLOURS)}); see the note on page {r.randint(1, 90)}"

    def advice() -> str:
        return r.choice(
            (
                "None of the above applies.",
                "Not known yet, ask again.",
                "n/a unless it rains",
                "See above; no change",
            )
        )

    return [
        specimen(f"what happened {draw}", many(n, sentence)),
        specimen(f"books {draw}", many(n, title)),
        specimen(f"films {draw}", many(n, film)),
        specimen(f"questions {draw}", many(n, question)),
        specimen(f"log lines {draw}", many(n, log)),
        specimen(f"advice {draw}", many(n, advice)),
    ]


# Letter case that means something


def letter_case(r: Random, draw: int) -> list[Specimen]:
    n = size(draw)
    acronyms: Pairs = [
        (v := r.choice(("IT", "HR", "PR", "it", "Sales", "Sales", "Stores")), {"it": "IT"}.get(v, v))
        for _ in range(n)
    ]
    mixed: Pairs = [
        (
            v := r.choice(("McLean", "DeVries", "O'Neill", "MCLEAN", "Braun", "Holm")),
            {"MCLEAN": "McLean"}.get(v, v),
        )
        for _ in range(n)
    ]
    units: Pairs = [(v := r.choice(("mW", "MW", "kW")), v) for _ in range(n)]
    genes: Pairs = [(v := r.choice(("a", "A", "b", "B")), v) for _ in range(n)]
    plain: Pairs = [
        (v := r.choice(("teal", "teal", "olive", "olive", "Olive", "rust", "slate")), v.lower())
        for _ in range(n)
    ]
    keys = ["".join(r.choice("abcdefABCDEF") for _ in range(6)) for _ in range(n)]
    return [
        meant(f"departments {draw}", acronyms, CASE),
        meant(f"names with capitals {draw}", mixed, CASE),
        meant(f"powers {draw}", units, CASE),
        meant(f"alleles {draw}", genes, CASE),
        meant(f"paints {draw}", plain, CASE),
        specimen(f"tokens {draw}", keys),
    ]


# Words that are nearly alike


def near(r: Random, draw: int) -> list[Specimen]:
    n = max(size(draw), 120)
    first = ("Marie", "Maria", "Marte", "Jan", "Jon", "Anne", "Anna", "Hanne", "Hanna", "Erik", "Eric")
    model = [f"{r.choice(('SKX', 'SRX', 'SKZ'))}{r.choice('ABC')}{r.choice('KLM')}" for _ in range(n)]
    hexes = many(n, lambda: "".join(r.choice("0123456789abcdef") for _ in range(8)))
    verbs = ("planting", "planning", "painting", "pointing", "printing")
    words = ("lager", "larger", "ledger", "later")
    place = r.choice(("Orchard", "Station", "Harbour"))
    slip = place[:3] + place[4:]
    slipped: Pairs = [(v := r.choice((place, "Mill", "Castle", "Chapel")), v) for _ in range(n)]
    slipped[7] = (slip, place)
    weights = [12, 1] + [4] * 9
    return [
        specimen(f"first names {draw}", r.choices(first, weights, k=n)),
        specimen(f"models {draw}", model),
        specimen(f"digests {draw}", hexes),
        specimen(f"work done {draw}", r.choices(verbs, (40, 2, 30, 1, 20), k=n)),
        specimen(f"kinds of entry {draw}", r.choices(words, (40, 1, 20, 3), k=n), NEAR),
        meant(f"places with a slip {draw}", slipped, NEAR),
    ]


# Numbers and what is none


def numbers(r: Random, draw: int) -> list[Specimen]:
    n = size(draw)
    zips = many(n, lambda: f"{r.randint(10000, 99999)}")
    lead = [*many(n, lambda: f"{r.randint(0, 9999):05d}"), "00012"]
    flags = many(n, lambda: r.choice("01"))
    levels = many(n, lambda: r.choice("0012"))
    skewed: Pairs = [(v := str(int(r.lognormvariate(6, 2))), v) for _ in range(n)]
    zeros = many(n, lambda: r.choice(("0", "0", "0", str(r.randint(1, 900)))))
    both: Pairs = [
        (
            v := r.choice(
                (f"{r.randint(1, 9)},{r.randint(10, 99)}", f"{r.randint(1, 9)}.{r.randint(10, 99)}")
            ),
            v.replace(",", "."),
        )
        for _ in range(n)
    ]
    thousands: Pairs = [(v := f"{r.randint(1000, 9_999_999):,}", v.replace(",", "")) for _ in range(n)]
    swiss: Pairs = [
        (v := f"{r.randint(1000, 99_999):,}.{r.randint(10, 99)}".replace(",", "'"), v.replace("'", ""))
        for _ in range(n)
    ]
    german: Pairs = [
        (f"{k // 100:,}".replace(",", ".") + f",{k % 100:02}", f"{k / 100:.2f}")
        for k in (r.randint(100_000, 9_999_999) for _ in range(n))
    ]
    unit: Pairs = [(f"{k} kg", str(k)) for k in (r.randint(3, 90) for _ in range(n))]
    share: Pairs = [(f"{k}%", str(k)) for k in (r.randint(3, 90) for _ in range(n))]
    euro: Pairs = [(f"€{k}.{r.randint(10, 99)}", None) for k in (r.randint(3, 90) for _ in range(n))]
    euro = [(cell, str(cell)[1:]) for cell, _ in euro]
    science: Pairs = [(v := f"{r.uniform(1, 9):.2f}e{r.randint(-6, 6)}", v) for _ in range(n)]
    return [
        specimen(f"postal codes {draw}", zips, NUMBERS),
        specimen(f"part numbers {draw}", lead, ZEROS),
        specimen(f"flags {draw}", flags, BOOLEANS),
        specimen(f"severity {draw}", levels, NUMBERS),
        meant(f"incomes {draw}", skewed, NUMBERS),
        specimen(f"purchases {draw}", zeros, NUMBERS),
        meant(f"both marks {draw}", both, NUMBERS),
        meant(f"people by town {draw}", thousands, NUMBERS),
        meant(f"prices with ' {draw}", swiss, NUMBERS),
        meant(f"prices, comma {draw}", german, NUMBERS),
        meant(f"weights {draw}", unit, NUMBERS),
        meant(f"shares {draw}", share, NUMBERS),
        meant(f"euro {draw}", euro, NUMBERS),
        meant(f"constants {draw}", science, NUMBERS),
    ]


FAMILIES = (
    Family(beside_numbers, 4),
    Family(words_as_levels, 4),
    Family(words_in_names, 3),
    Family(words_that_mean_null, 4),
    Family(free_text, 4),
    Family(letter_case, 4),
    Family(near, 4),
    Family(numbers, 4),
    Family(dates, 4),
    Family(lists, 4),
)
