"""A large made-up log of firings, for steps that see all rows, and a reference of kilns. Built from whole columns."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.csv

from bench.processes import DATA

SEED = 20260504
KILNS = 100_000
GLAZES = ("ash", "celadon", "tenmoku", "shino", "chun", "kaki", "nuka", "iron", "tin", "clear")
POTTERS = ("Ines Kallo", "Tove Aslan", "Pim Verhoe", "Lars Sato", "Zoë Maro", "Odd Berend")
AT_A_TIME = 500_000


def firings(rows: int) -> Path:
    """`rows` firings: of as many pieces as a fifth of them, in 1,000 studios and 100,000 kilns; made once and kept."""
    DATA.mkdir(exist_ok=True)
    path = DATA / f"firings-{rows}.csv"
    if path.exists():
        return path
    random = np.random.default_rng(SEED)
    unfinished = path.with_suffix(".part")
    with unfinished.open("wb") as file:
        for start in range(0, rows, AT_A_TIME):
            _write(_some(random, rows, min(AT_A_TIME, rows - start)), file, start == 0)
    unfinished.rename(path)
    return path


def kilns() -> Path:
    """The reference: one row per kiln, in no order."""
    DATA.mkdir(exist_ok=True)
    path = DATA / f"kilns-{KILNS}.csv"
    if not path.exists():
        random = np.random.default_rng(SEED)
        numbers = random.permutation(KILNS)
        fuels = _of(("gas", "wood", "electric"), random.integers(0, 3, KILNS))
        litres = pa.array(random.integers(80, 900, KILNS)).cast(pa.string())
        with path.open("wb") as file:
            _write({"kiln": _numbered("K", numbers, 6), "fuel": fuels, "volume": litres}, file, True)
    return path


def _some(random: np.random.Generator, rows: int, count: int) -> dict[str, pa.Array]:
    days = np.datetime64("2026-01-01") + random.integers(0, 365, count).astype("timedelta64[D]")
    return {
        "piece": _numbered("P", random.integers(0, rows // 5, count), 8),
        "kiln": _numbered("K", random.integers(0, KILNS, count), 6),
        "studio": _numbered("studio ", random.integers(0, 1_000, count), 4),
        "potter": _of(POTTERS, random.integers(0, len(POTTERS), count)),
        "fired_on": pa.array(days).cast(pa.string()),
        "glaze": _of(GLAZES, random.integers(0, len(GLAZES), count)),
        "made": pa.array(random.integers(1, 60, count)).cast(pa.string()),
    }


def _numbered(before: str, numbers: np.ndarray, width: int) -> pa.Array:
    digits = pa.array(numbers + 10**width).cast(pa.string())
    return pc.binary_replace_slice(digits, 0, 1, before)


def _of(words: Sequence[str], numbers: np.ndarray) -> pa.Array:
    return pa.array(words).take(pa.array(numbers))


def _write(columns: dict[str, pa.Array], file: object, header: bool) -> None:
    options = pyarrow.csv.WriteOptions(include_header=header, delimiter=";", quoting_style="none")
    pyarrow.csv.write_csv(pa.table(columns), file, options)
