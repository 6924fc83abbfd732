"""The steps of `clean.mangler` as people write them by hand, on the standard csv module."""

from __future__ import annotations

import csv
import re
import sys

RUNS = re.compile(r"\s+")
ZERO_WIDTH = re.compile("[\u200b\u2060\ufeff]")


def squeeze(run: re.Match[str]) -> str:
    return "\n" if "\n" in run.group() else " "


def main(extract: str, output: str) -> None:
    with (
        open(extract, encoding="utf-8", newline="") as source,
        open(output, "w", encoding="utf-8", newline="") as target,
    ):
        reader = csv.reader(source, delimiter=";")
        writer = csv.writer(target, delimiter=";", lineterminator="\n")
        header = next(reader)
        writer.writerow(header)
        result, notes = header.index("result"), header.index("notes")
        studio, glazes, contacts = header.index("studio"), header.index("glazes"), header.index("contacts")
        for row in reader:
            cells: list[str | None] = [
                RUNS.sub(squeeze, ZERO_WIDTH.sub("", cell)).strip() or None for cell in row
            ]
            for column in (result, notes):
                if cells[column] in ("-", "n/a", "none"):
                    cells[column] = None
            cells[studio] = cells[studio] or "unknown"
            cells[glazes] = (cells[glazes] or "").replace("temoku", "tenmoku") or None
            cells[contacts] = (cells[contacts] or "").replace(
                "studio@example.org", "office@example.org"
            ) or None
            writer.writerow(cells)


if __name__ == "__main__":
    main(*sys.argv[1:])
