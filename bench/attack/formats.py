"""Mutated files of every format: small tables, their bytes damaged, or the parts of their packages."""

from __future__ import annotations

import io
import json
import tarfile
import zipfile
from collections.abc import Callable
from pathlib import Path
from random import Random
from typing import Any

import pyarrow as pa
import pyarrow.parquet as pq
import xlsxwriter

FILES = Path(__file__).parents[2] / "tests" / "formats" / "workbook" / "files"
"""Small workbooks of the kinds that are read and not written."""
NUMBERS = (0, 1, -1, 2**31, 2**53 + 1, 2**63 - 1)


def _table(rows: int) -> Any:
    return pa.table(
        {
            "kiln": pa.array([f"{n % 7:03}" if n % 5 else None for n in range(rows)]),
            "n": pa.array([NUMBERS[n % len(NUMBERS)] for n in range(rows)], pa.int64()),
            "x": pa.array([n / 3 for n in range(rows)]),
            "t": pa.array([n * 1_000_000_007 for n in range(rows)], pa.int64()).cast(
                pa.timestamp("us", "UTC")
            ),
            "d": pa.array([f"level {n % 3}" for n in range(rows)]).dictionary_encode(),
            "l": pa.array([[f"{n}", None] * (n % 3) for n in range(rows)]),
            "s": pa.array([{"a": n, "b": f"{n}"} for n in range(rows)]),
        }
    )


def _parquet(rows: int) -> bytes:
    out = io.BytesIO()
    pq.write_table(
        _table(rows), out, row_group_size=max(1, rows // 3), compression="snappy" if rows % 2 else "zstd"
    )
    return out.getvalue()


def _arrow(rows: int) -> bytes:
    out, table = io.BytesIO(), _table(rows)
    with pa.ipc.new_file(out, table.schema) as writer:
        writer.write_table(table, max_chunksize=max(1, rows // 3))
    return out.getvalue()


def _stream(rows: int) -> bytes:
    out, table = io.BytesIO(), _table(rows)
    with pa.ipc.new_stream(out, table.schema) as writer:
        writer.write_table(table, max_chunksize=max(1, rows // 3))
    return out.getvalue()


def _objects(rows: int) -> list[dict[str, Any]]:
    return [
        {
            "kiln": f"{n:03}",
            "n": NUMBERS[n % 6],
            "o": {"a": n / 7, "b": ["x", None][n % 2]},
            "l": [str(n)] * (n % 3),
        }
        for n in range(rows)
    ]


def _lines(rows: int) -> bytes:
    return "".join(json.dumps(row) + "\n" for row in _objects(rows)).encode()


def _array(rows: int) -> bytes:
    return json.dumps(_objects(rows), indent=1 if rows % 2 else None).encode()


def _workbook(rows: int) -> bytes:
    out = io.BytesIO()
    book = xlsxwriter.Workbook(out, {"in_memory": True})
    sheet = book.add_worksheet("Log")
    day = book.add_format({"num_format": "yyyy-mm-dd"})
    sheet.write_row(0, 0, ["kiln", "n", "day", "sum"])
    for n in range(1, rows + 1):
        sheet.write_row(n, 0, [f"{n:03}", n / 2])
        sheet.write_number(n, 2, 46_000 + n, day)
        sheet.write_formula(n, 3, f"=B{n}*2", None, n)
    if rows > 4:
        sheet.merge_range(2, 0, 4, 0, "merged")
    book.close()
    return out.getvalue()


def _zip(rows: int) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED if rows % 2 else zipfile.ZIP_STORED) as archive:
        archive.writestr("week.csv" if rows % 3 else "week.jsonl", _text(rows) if rows % 3 else _lines(rows))
    return out.getvalue()


def _tar(rows: int) -> bytes:
    out, content = io.BytesIO(), _text(rows)
    with tarfile.open(fileobj=out, mode="w:gz" if rows % 2 else "w") as archive:
        info = tarfile.TarInfo("week.csv")
        info.size = len(content)
        archive.addfile(info, io.BytesIO(content))
    return out.getvalue()


def _text(rows: int) -> bytes:
    return ("kiln;made\n" + "".join(f"{n:03};{n}\n" for n in range(rows))).encode()


def _of_files(ending: str) -> Callable[[int], bytes]:
    def content(rows: int) -> bytes:
        found = sorted(FILES.glob(f"*.{ending}"))
        return found[rows % len(found)].read_bytes()

    return content


SEEDS: dict[str, Callable[[int], bytes]] = {
    "parquet": _parquet,
    "arrow": _arrow,
    "arrows": _stream,
    "jsonl": _lines,
    "json": _array,
    "xlsx": _workbook,
    "xls": _of_files("xls"),
    "xlsb": _of_files("xlsb"),
    "ods": _of_files("ods"),
    "zip": _zip,
    "tar": _tar,
}
PACKAGES = ("xlsx", "xlsb", "ods", "zip")
MARKS = (
    b"\0", b"\xff", b'"', b"{", b"}", b"[", b"]", b",", b"\\", b"\n", b"9" * 400, b"\xff\xff\xff\x7f", b"-1", b"<",
    b">",     b'r="XFD1048576"', b't="s"', b"1e999", b'"kiln":1,', b"NaN", b"\\ud800", b"\x80" * 9, b"[" * 2000,
)  # fmt: skip


def damaged(random: Random, kind: str) -> bytes:
    """A file of a format, with one fault or several."""
    content = SEEDS[kind](random.choice((0, 1, 2, 3, 9, 40)))
    if kind in PACKAGES and random.random() < 0.6:
        return _repacked(random, content)
    for _ in range(random.choice((1, 1, 2, 5))):
        content = _mutated(random, content)
    return content


def _mutated(random: Random, content: bytes) -> bytes:
    at = random.randrange(len(content) + 1)
    more = at + random.choice((1, 1, 4, 40))
    return random.choice(
        (
            lambda: content[:at] + bytes([random.randrange(256)]) + content[at + 1 :],
            lambda: (
                content[:at]
                + bytes([content[at % len(content)] ^ 1 << random.randrange(8)])
                + content[at + 1 :]
                if content
                else content
            ),
            lambda: content[:at],
            lambda: content[:at] + content[more:],
            lambda: content[:at] + random.choice(MARKS) + content[at:],
            lambda: content[:at] + random.choice(MARKS) + content[more:],
            lambda: content[:at] + content[: random.randrange(60)] + content[at:],
        )
    )()


def _repacked(random: Random, content: bytes) -> bytes:
    """A package with one of its parts damaged, and its sums right."""
    out = io.BytesIO()
    with (
        zipfile.ZipFile(io.BytesIO(content)) as package,
        zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made,
    ):
        names = package.namelist()
        chosen = random.choice([name for name in names if "sheet" in name or "content" in name] or names)
        chosen = random.choice((chosen, chosen, random.choice(names)))
        for name in names:
            part = package.read(name)
            if name == chosen:
                for _ in range(random.choice((1, 2, 4))):
                    part = _mutated(random, part)
            made.writestr(name, part)
    return out.getvalue()
