"""Mutated extracts: small tables of many kinds, damaged as files are damaged."""

from __future__ import annotations

import bz2
import gzip
import lzma
from collections.abc import Callable
from pathlib import Path
from random import Random

from mangler.sample.generate import EXTRACTS, write_extract

CELLS = (
    "007", "Clay  Works ", "Zoë", "", '""', "1.222", "1222 °C", "-1e400", "9" * 40, "2026-05-04 09:30", "tbc",
    "a;b;c", "bowl=4, vase-3", '"quoted; cell"', '"two\nlines"', '"a ""b"" c"', "\u00a0x\u2009", "x\ty", "null",
    "true", "ﬁ①", "e\u0301", "🏺", "x" * 300, "\x1b[2J", "'single'", '5" tall', '"x"y', "\r", "#note", "=1+1",
)  # fmt: skip
SPECIAL = (
    b'"', b'""', b",", b";", b"\t", b"|", b"\n", b"\r", b"\r\n", b"\n\n", b"\0", b"\xff", b"\xc3", b"\xef\xbb\xbf",
    b"\xff\xfe", b" ", b"'", b"\\", b"#", b"\x1f", b"\x85", b"\xe2\x80\xa8", b'","', b'"\n"', b"\x1a",
)  # fmt: skip
DELIMITERS = (",", ";", "\t", "|", ":", " ", "\x1f", "¦")


def seeds(folder: Path) -> list[bytes]:
    """The sample's extracts at their usual size."""
    out = []
    for extract in EXTRACTS:
        if extract.form != "text":
            continue
        path = folder / "seed.csv"
        write_extract(path, extract, 12)
        out.append(path.read_bytes())
    return out


def extract(random: Random, sources: list[bytes]) -> bytes:
    """One extract: of the sample or made up, with a few mutations or none."""
    content = random.choice(sources) if random.random() < 0.4 else _made_up(random)
    for _ in range(random.choice((0, 0, 1, 1, 2, 4, 12))):
        content = random.choice(MUTATIONS)(random, content)
    return content


def _made_up(random: Random) -> bytes:
    delimiter = random.choice(DELIMITERS)
    width = random.choice((1, 1, 2, 3, 5, 40))
    names = [
        random.choice(("kiln", "cone", "peak_c", "notes", "Fired at?", "x", "_row")) for _ in range(width)
    ]
    if random.random() < 0.8:
        names = [f"{name}{number}" if number else name for number, name in enumerate(names)]
    rows = random.choice((0, 1, 2, 5, 40, 300))
    plain = random.random() < 0.3
    lines = [delimiter.join(names)]
    for _ in range(rows):
        cells = [str(random.randrange(1000)) if plain else random.choice(CELLS) for _ in range(width)]
        if random.random() < 0.05:
            cells.append("more")
        lines.append(delimiter.join(cells))
    text = random.choice(("\n", "\n", "\r\n")).join(lines) + "\n" * (random.random() < 0.8)
    return text.encode(random.choice(("utf-8", "utf-8", "utf-8", "cp1252", "utf-16", "utf-16-le")), "replace")


def _insert(random: Random, content: bytes) -> bytes:
    at = random.randrange(len(content) + 1)
    return content[:at] + random.choice(SPECIAL) * random.choice((1, 1, 2, 50)) + content[at:]


def _delete(random: Random, content: bytes) -> bytes:
    at = random.randrange(len(content) + 1)
    return content[:at] + content[at + random.choice((1, 1, 7, 100)) :]


def _flip(random: Random, content: bytes) -> bytes:
    if not content:
        return content
    at = random.randrange(len(content))
    return content[:at] + bytes([content[at] ^ (1 << random.randrange(8))]) + content[at + 1 :]


def _repeat(random: Random, content: bytes) -> bytes:
    at = random.randrange(len(content) + 1)
    piece = content[at : at + random.choice((1, 5, 80))]
    return content[:at] + piece * random.choice((2, 3, 300)) + content[at:]


def _truncate(random: Random, content: bytes) -> bytes:
    return content[: random.randrange(len(content) + 1)]


def _other_ends(random: Random, content: bytes) -> bytes:
    return content.replace(
        b"\n", random.choice((b"\r\n", b"\r", b"\n\n", b"\n\r")), random.choice((-1, 1, 3))
    )


def _recoded(random: Random, content: bytes) -> bytes:
    return content.decode("utf-8", "replace").encode(
        random.choice(("utf-16", "utf-16-be", "utf-32", "cp037")), "replace"
    )


def _packed(random: Random, content: bytes) -> bytes:
    packed = random.choice((gzip.compress, bz2.compress, lzma.compress))(content)
    return packed if random.random() < 0.5 else _flip(random, packed)


MUTATIONS: tuple[Callable[[Random, bytes], bytes], ...] = (
    _insert, _insert, _insert, _delete, _flip, _repeat, _truncate, _other_ends, _recoded, _packed,
)  # fmt: skip
