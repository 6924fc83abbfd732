"""White space at the ends of cells, inside them, and of kinds that nobody sees."""

from __future__ import annotations

from tests.insight.corpus.specimen import (
    FORMS,
    GLAZES,
    POTTERS,
    RESULTS,
    STUDIOS,
    Sheet,
    alone,
    some,
    specimen,
    spoilt,
    with_nulls,
)

from mangler.insight.columns.finding import Kind

OUTER, INNER, UNUSUAL = Kind.OUTER_SPACE, Kind.INNER_SPACE, Kind.UNUSUAL_SPACE


def sheets() -> list[Sheet]:
    def spoil(
        name: str, values: tuple[str, ...], count: int, share: float, old: str, new: str
    ) -> list[str | None]:
        cells = some(name, values, count)
        if old == "^":
            return spoilt(name, cells, share, lambda cell: new + cell)
        if old == "$":
            return spoilt(name, cells, share, lambda cell: cell + new)
        return spoilt(name, cells, share, lambda cell: cell.replace(old, new))

    return alone(
        [
            specimen("space before", spoil("a", STUDIOS, 60, 0.2, "^", " "), OUTER),
            specimen("space after", spoil("b", STUDIOS, 60, 0.2, "$", " "), OUTER),
            specimen("two cells only", spoil("c", GLAZES, 300, 0.001, "$", " "), OUTER),
            specimen("three spaces after", spoil("d", RESULTS, 40, 0.5, "$", "   "), OUTER),
            specimen("line break after", spoil("e", RESULTS, 40, 0.2, "$", "\n"), OUTER),
            specimen("return after", spoil("f", RESULTS, 40, 0.2, "$", "\r\n"), OUTER),
            specimen("tab after", spoil("g", RESULTS, 40, 0.2, "$", "\t"), OUTER, UNUSUAL),
            specimen("no-break space after", spoil("h", FORMS, 40, 0.2, "$", "\u00a0"), OUTER, UNUSUAL),
            specimen("thin space before", spoil("i", STUDIOS, 40, 0.2, "^", "\u2009"), OUTER, UNUSUAL),
            specimen("zero width before", spoil("j", FORMS, 40, 0.2, "^", "\u200b"), OUTER, UNUSUAL),
            specimen("mark of byte order", spoil("k", FORMS, 40, 0.1, "^", "\ufeff"), OUTER, UNUSUAL),
            specimen(
                "wide space after", spoil("l", ("窯", "茶碗", "皿"), 30, 0.3, "$", "\u3000"), OUTER, UNUSUAL
            ),
            specimen("doubled inside", spoil("m", POTTERS, 60, 0.3, " ", "  "), INNER),
            specimen("one doubled", spoil("n", POTTERS, 90, 0.02, " ", "   "), INNER),
            specimen("no-break space inside", spoil("o", POTTERS, 60, 0.3, " ", "\u00a0"), INNER, UNUSUAL),
            specimen("tab inside", spoil("p", POTTERS, 60, 0.3, " ", "\t"), INNER, UNUSUAL),
            specimen("zero width inside", spoil("q", POTTERS, 60, 0.2, " ", " \u200b"), INNER, UNUSUAL),
            specimen(
                "word joiner inside",
                spoil("r", ("celadon", "cobalt"), 60, 0.2, "o", "o\u2060"),
                INNER,
                UNUSUAL,
            ),
            specimen("narrow no-break", spoil("s", POTTERS, 60, 0.2, " ", "\u202f"), INNER, UNUSUAL),
            specimen("line separator", spoil("t", POTTERS, 60, 0.1, " ", "\u2028"), INNER, UNUSUAL),
            specimen(
                "outside and inside",
                spoilt(
                    "u",
                    some("u", ("Clay Works", "Old Dairy"), 50),
                    0.4,
                    lambda c: f" {c.replace(' ', '  ')} ",
                ),
                OUTER,
                INNER,
            ),
            specimen("with nulls", with_nulls("v", spoil("v", GLAZES, 100, 0.3, "^", " "), 0.3), OUTER),
            specimen("every cell", [f"{cell} " for cell in some("w", RESULTS, 30)], OUTER),
            specimen("in prose", [f"{cell}  was slow. " for cell in some("x", STUDIOS, 30)], OUTER, INNER),
        ]
    )
