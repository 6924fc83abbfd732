"""A large extract unlike the sample: codes, prose with commas and quotes, units, lists, nulls in five spellings."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import numpy as np
import numpy.typing as npt

from bench.processes import DATA

CHUNK = 50_000
NULLS = ("", "n/a", "-", "none", "?")
STUDIOS = (
    "Clay Works",
    " clay works",
    "Clay  Works ",
    "Quayside",
    "quayside ",
    "Old Mill",
    "Hillside Pottery",
)
TITLES = ("Dr. ", "Ms. ", "Mr. ", "", "", "", "")
FIRST = ("Ines", "Tove", "Pim", "Anouk", "Lars", "Mirela", "Odd", "Zoë", "Bao", "Kofi", "Ruth", "Émile")
MIDDLE = ("", "", "", "K. ", "M. ", "J. ")
LAST = ("Kallo", "Aslan", "Verhoe", "Lindqvist", "Ó Briain", "Marchetti", "Sato", "Danso", "Weber", "Nagy")
GLAZES = ("ash", "celadon", "cobalt", "shino", "temoku", "tenmoku", "Temoku", "iron red", "salt")
FORMS = ("bowl", "vase", "mug", "plate", "tile", "tea bowl")
WORDS = (
    "slow cooling",
    "lid stuck, freed with a knife",
    'the shelf "B" is bent',
    "batch: 14",
    "crawling, at the rim",
)
KILNS = 900
COLUMNS = ("firing", "kiln", "studio", "potter", "fired_at", "peak", "price", "glazes", "pieces", "notes")
SEED = 20_260_504


def extract(rows: int) -> Path:
    """The extract at this size; made once and kept."""
    DATA.mkdir(exist_ok=True)
    path = DATA / f"work-{rows}.csv"
    if not path.exists():
        random = np.random.default_rng(SEED)
        unfinished = path.with_suffix(".part")
        with unfinished.open("w", encoding="utf-8", newline="") as file:
            file.write(",".join(COLUMNS) + "\n")
            for first in range(0, rows, CHUNK):
                file.write(_lines(random, first, min(CHUNK, rows - first)))
        unfinished.rename(path)
    return path


def kilns() -> Path:
    """A table of 900 kilns, for the lookup."""
    path = DATA / "work-kilns.csv"
    if not path.exists():
        lines = [f"{_kiln(n)},{('gas', 'wood', 'electric')[n % 3]},{n % 40 + 1}" for n in range(KILNS)]
        path.write_text("kiln,fuel,shelves\n" + "\n".join(lines) + "\n", encoding="utf-8")
    return path


def _kiln(number: int) -> str:
    return f"K-{number:03}"


def _lines(random: np.random.Generator, first: int, count: int) -> str:
    def chosen(values: Sequence[str]) -> list[str]:
        return [values[i] for i in random.integers(0, len(values), count)]

    def numbers(most: int) -> npt.NDArray[np.int64]:
        return random.integers(0, most, count)

    def some_null(texts: Sequence[str], share: float) -> list[str]:
        words = chosen(NULLS)
        gone = random.random(count) < share
        return [word if null else text for text, word, null in zip(texts, words, gone, strict=True)]

    parts = numbers(4)
    columns = [
        [f"F-{number:07}" for number in range(first, first + count)],
        [_kiln(number) for number in numbers(KILNS)],
        some_null(chosen(STUDIOS), 0.06),
        [
            "".join(name)
            for name in zip(*map(chosen, (TITLES, FIRST, tuple(f" {m}" for m in MIDDLE), LAST)), strict=True)
        ],
        [
            f"{day + 1:02}.{month + 1:02}.2026 {hour:02}:{minute:02}"
            for day, month, hour, minute in zip(
                numbers(28), numbers(12), numbers(24), numbers(60), strict=True
            )
        ],
        some_null([f"{980 + n} °C" if n % 3 else f"{980 + n}" for n in numbers(320)], 0.05),
        some_null([f"{n // 100},{n % 100:02} EUR" for n in numbers(90_000)], 0.04),
        some_null(
            [
                "; ".join(glazes[: size + 1])
                for *glazes, size in zip(*[chosen(GLAZES) for _ in range(4)], parts, strict=True)
            ],
            0.05,
        ),
        [
            ";".join(
                f"{form}={made}"
                for form, made in zip(forms[: size + 1], (many, many % 5 + 1, 2, 1), strict=False)
            )
            for *forms, size, many in zip(*[chosen(FORMS) for _ in range(4)], parts, numbers(12), strict=True)
        ],
        some_null(chosen(WORDS), 0.3),
    ]
    return "".join(",".join(map(_quoted, row)) + "\n" for row in zip(*columns, strict=True))


def _quoted(cell: str) -> str:
    return f'"{cell.replace(chr(34), chr(34) * 2)}"' if "," in cell or '"' in cell else cell
