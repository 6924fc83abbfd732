"""Words that mean null: known ones, and ones that only the data tells."""

from __future__ import annotations

from tests.insight.corpus.specimen import (
    FORMS,
    FUELS,
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

WORDS, NUMBERS, DATES, EMPTY = Kind.NULL_WORDS, Kind.NUMBERS, Kind.DATES, Kind.EMPTY_TEXTS


def _put(name: str, cells: list[str], share: float, *words: str) -> Cells:
    random = seeded(f"{name} words")
    return spoilt(name, cells, share, lambda _: random.choice(words))


def _whole(name: str, low: int, high: int, count: int) -> list[str]:
    random = seeded(name)
    return [str(random.randrange(low, high)) for _ in range(count)]


def _days(name: str, count: int) -> list[str]:
    random = seeded(name)
    return [f"2026-{random.randrange(1, 13):02}-{random.randrange(1, 29):02}" for _ in range(count)]


def sheets() -> list[Sheet]:
    return alone([*_known(), *_among_machine_kinds(), *_empties(), *_stand_ins(), *_not_words()]) + _alike()


def _known() -> list[Specimen]:
    return [
        specimen("n/a", _put("n/a", some("1", STUDIOS, 60), 0.2, "n/a"), WORDS),
        specimen("N/A", _put("N/A", some("2", GLAZES, 60), 0.1, "N/A"), WORDS),
        specimen("a dash", _put("dash", some("3", RESULTS, 60), 0.2, "-"), WORDS),
        specimen("dashes", _put("dashes", some("4", RESULTS, 60), 0.2, "--", "---"), WORDS),
        specimen("question mark", _put("?", some("5", POTTERS, 60), 0.1, "?"), WORDS),
        specimen("question marks", _put("??", some("6", POTTERS, 60), 0.1, "??", "???"), WORDS),
        specimen("null", _put("null", some("7", FORMS, 60), 0.2, "NULL"), WORDS),
        specimen("a long dash", _put("—", some("8", FORMS, 60), 0.2, "—"), WORDS),
        specimen("dots", _put("..", some("9", FORMS, 60), 0.2, ".."), WORDS),
        specimen("several", _put("several", some("10", STUDIOS, 90), 0.3, "n/a", "-", "tbc"), WORDS),
        specimen(
            "not available", _put("not available", some("11", STUDIOS, 60), 0.1, "not available"), WORDS
        ),
        specimen("in brackets", _put("brackets", some("12", STUDIOS, 60), 0.1, "(blank)"), WORDS),
        specimen("of a spreadsheet", _put("sheet", some("13", STUDIOS, 60), 0.1, "#N/A"), WORDS),
        specimen("none", _put("none", some("14", GLAZES, 80), 0.2, "none"), WORDS),
        specimen("unknown", _put("unknown", some("15", POTTERS, 80), 0.1, "unknown"), WORDS),
        specimen("in German", _put("German", some("16", STUDIOS, 60), 0.1, "unbekannt"), WORDS),
        specimen(
            "with spaces", _put("spaces", some("17", STUDIOS, 60), 0.2, " n/a "), WORDS, Kind.OUTER_SPACE
        ),
        specimen("na among words", _put("na", some("18", STUDIOS, 60), 0.1, "NA"), WORDS),
        specimen("once", [*some("19", STUDIOS, 40), "n/a"], WORDS),
        specimen("none and numbers", _put("20", _whole("20", 1, 40, 60), 0.1, "none"), WORDS, NUMBERS),
    ]


def _among_machine_kinds() -> list[Specimen]:
    return [
        specimen("tbc among numbers", _put("21", _whole("21", 900, 1300, 60), 0.1, "tbc"), WORDS, NUMBERS),
        specimen(
            "a word nobody listed", _put("22", _whole("22", 900, 1300, 60), 0.1, "offen"), WORDS, NUMBERS
        ),
        specimen("another", _put("23", _whole("23", 1, 50, 80), 0.1, "lost"), WORDS, NUMBERS),
        specimen("among dates", _put("24", _days("24", 60), 0.1, "later"), WORDS, DATES),
        specimen("dash among dates", _put("25", _days("25", 60), 0.1, "-"), WORDS, DATES),
        specimen("dash among numbers", _put("26", _whole("26", 5, 90, 60), 0.3, "-"), WORDS, NUMBERS),
        specimen("x among numbers", _put("27", _whole("27", 5, 90, 60), 0.1, "x"), WORDS, NUMBERS),
        specimen("among many", _put("28", _whole("28", 0, 5000, 400), 0.02, "k.A."), WORDS, NUMBERS),
    ]


def _empties() -> list[Specimen]:
    return [
        specimen("empty texts", spoilt("30", some("30", STUDIOS, 60), 0.2, lambda _: ""), EMPTY),
        specimen(
            "empty and null", [None, None, *spoilt("31", some("31", STUDIOS, 60), 0.2, lambda _: "")], EMPTY
        ),
        specimen("blank cells", spoilt("32", some("32", STUDIOS, 60), 0.2, lambda _: "  "), Kind.OUTER_SPACE),
        specimen(
            "empty among numbers", spoilt("33", _whole("33", 1, 99, 60), 0.2, lambda _: ""), EMPTY, NUMBERS
        ),
    ]


def _stand_ins() -> list[Specimen]:
    return [
        specimen("9999 among numbers", _put("40", _whole("40", 900, 1300, 80), 0.1, "9999"), WORDS, NUMBERS),
        specimen("-1 among numbers", _put("41", _whole("41", 3, 60, 80), 0.1, "-1"), WORDS, NUMBERS),
        specimen("-999 among numbers", _put("42", _whole("42", 10, 60, 80), 0.05, "-999"), WORDS, NUMBERS),
        specimen(
            "99999 among numbers", _put("43", _whole("43", 100, 6000, 90), 0.05, "99999"), WORDS, NUMBERS
        ),
    ]


def _not_words() -> list[Specimen]:
    return [
        specimen("99 of many", _whole("50", 0, 120, 300), NUMBERS),
        specimen("numbers below nought", _whole("51", -5, 60, 100), NUMBERS),
        specimen("yes among words", some("52", ("gas", "wood", "yes"), 60)),
    ]


def _alike() -> list[Sheet]:
    """The same short word in columns that have nothing else in common."""

    def sheet(word: str, rows: int) -> Sheet:
        return Sheet(
            (
                specimen(
                    f"{word}: glaze", _put(f"{word}1", some(f"{word}1", GLAZES, rows), 0.1, word), WORDS
                ),
                specimen(
                    f"{word}: studio", _put(f"{word}2", some(f"{word}2", STUDIOS, rows), 0.1, word), WORDS
                ),
                specimen(f"{word}: form", _put(f"{word}3", some(f"{word}3", FORMS, rows), 0.1, word), WORDS),
                specimen(
                    f"{word}: peak",
                    _put(f"{word}4", _whole(f"{word}4", 900, 1300, rows), 0.1, word),
                    WORDS,
                    NUMBERS,
                ),
                specimen(f"{word}: fuel", some(f"{word}5", FUELS, rows)),
            )
        )

    same = Sheet(
        (
            specimen("inner glaze", some("inner", GLAZES, 80)),
            specimen("outer glaze", some("outer", GLAZES, 80)),
            specimen("rim glaze", some("rim", GLAZES[:5], 80)),
        )
    )
    return [sheet("offen", 60), sheet("zzz", 120), sheet("pending", 80), same]
