"""The same value in several letter cases, and typing slips."""

from __future__ import annotations

from random import Random

from tests.insight.corpus.specimen import (
    FORMS,
    GLAZES,
    POTTERS,
    RESULTS,
    STUDIOS,
    Cells,
    Sheet,
    Specimen,
    alone,
    seeded,
    some,
    specimen,
    spoilt,
)

from mangler.insight.columns.finding import Kind

CASE, NEAR = Kind.LETTER_CASE, Kind.NEAR_VARIANTS


def sheets() -> list[Sheet]:
    return alone([*_cases(), *_slips()])


def _cases() -> list[Specimen]:
    return [
        specimen("lower and title", spoilt("a", some("a", STUDIOS, 60), 0.2, str.lower), CASE),
        specimen("upper", spoilt("b", some("b", RESULTS, 60), 0.2, str.upper), CASE),
        specimen("title", spoilt("c", some("c", RESULTS, 60), 0.4, str.title), CASE),
        specimen(
            "three ways",
            spoilt("d", spoilt("d", some("d", RESULTS, 90), 0.3, str.upper), 0.3, str.title),
            CASE,
        ),
        specimen("accents", spoilt("e", some("e", ("Émile", "Zoë", "Åsa"), 60), 0.2, str.upper), CASE),
        specimen("one value", spoilt("f", ["Clay Works"] * 40, 0.1, str.lower), CASE),
        specimen("two cells", spoilt("g", some("g", GLAZES, 200), 0.001, str.upper), CASE),
        specimen("people", spoilt("h", some("h", POTTERS, 120), 0.1, str.lower), CASE),
        specimen("letters", spoilt("i", some("i", ("A", "B", "C"), 60), 0.2, str.lower), CASE),
        specimen("units", spoilt("j", some("j", ("kg", "g"), 50), 0.2, str.upper), CASE),
        specimen(
            "mail", spoilt("k", some("k", ("pim@example.org", "ines@example.org"), 60), 0.2, str.title), CASE
        ),
        specimen("inner capital", spoilt("l", some("l", ("tea bowl", "mug"), 60), 0.3, str.title), CASE),
        specimen("half", spoilt("m", some("m", FORMS, 100), 0.5, str.upper), CASE),
        specimen("greek", spoilt("n", some("n", ("βάζο", "κούπα"), 40), 0.2, str.upper), CASE),
        specimen(
            "of several words",
            spoilt("o", some("o", ("Hill Street", "North Yard"), 60), 0.2, str.upper),
            CASE,
        ),
    ]


def _slip(word: str, random: Random) -> str:
    """A letter left out, doubled or swapped inside the word."""
    at = random.choice([at for at in range(1, len(word) - 2) if word[at] != " " != word[at + 1]])
    ways = (
        word[:at] + word[at + 1 :],
        word[:at] + word[at] + word[at:],
        word[:at] + word[at + 1] + word[at] + word[at + 2 :],
    )
    return next((way for way in random.sample(ways, 3) if way != word), ways[1])


def _slipped(name: str, values: tuple[str, ...], count: int, slips: int) -> Cells:
    random = seeded(f"{name} slips")
    cells: Cells = list(some(name, values, count))
    for at in random.sample(range(count), slips):
        cells[at] = _slip(str(cells[at]), random)
    return cells


def _slips() -> list[Specimen]:
    long = tuple(glaze for glaze in GLAZES if len(glaze) > 5)
    return [
        specimen("temoku", [*some("p", GLAZES, 80), "temoku", "temoku"], NEAR),
        specimen(
            "as in the log",
            some("q", ("celadon", "tenmoku", "temoku", "ash", "shino"), 90, (3, 4, 2, 3, 3)),
            NEAR,
        ),
        specimen("one slip", _slipped("r", STUDIOS, 60, 1), NEAR),
        specimen("three slips", _slipped("s", STUDIOS, 120, 3), NEAR),
        specimen("five slips", _slipped("t", POTTERS, 300, 5), NEAR),
        specimen(
            "long words", _slipped("u", ("reduction firing", "oxidation firing", "salt firing"), 60, 2), NEAR
        ),
        specimen("a letter changed", [*some("v", ("electric", "gas", "wood"), 60), "electrik"], NEAR),
        specimen("first letter", [*some("w", ("cracked", "good"), 60), "xracked"], NEAR),
        specimen("swapped", [*some("x", ("warped", "cracked", "refire"), 90), "wraped"], NEAR),
        specimen("doubled", [*some("y", ("celadon", "cobalt"), 60), "celaadon"], NEAR),
        specimen("towns", [*some("z", ("Stoke", "Faenza", "Limoges"), 90), "Limgoes", "Faenzza"], NEAR),
        specimen("few letters", [*some("za", ("bowl", "vase", "mug"), 90), "bowwl"], NEAR),
        specimen("two at once", [*some("zb", ("Hill Street", "Brickfield"), 60), "Brikcfeild"], NEAR),
        specimen("of many", _slipped("zc", long, 400, 4), NEAR),
        specimen(
            "slip and case",
            [*spoilt("zd", some("zd", ("tenmoku", "celadon"), 80), 0.2, str.title), "temoku"],
            NEAR,
            CASE,
        ),
    ]
