"""The recipes `split_….mangler` as people write them by hand, on the standard csv module."""

from __future__ import annotations

import csv
import re
import sys
from collections.abc import Callable, Iterator

TITLE = re.compile(r"(Dr|Ms|Mr)\.")
INITIAL = re.compile(r"[^\W\d_]\.")
MARK = re.compile("[=-]")


def parts_of(cell: str, delimiter: str) -> list[str]:
    return [part for piece in cell.split(delimiter) if (part := piece.strip())]


def split_list(header: list[str]) -> tuple[list[str], Callable[[list[str]], Iterator[list[str]]]]:
    at = header.index("glazes")

    def work(row: list[str]) -> Iterator[list[str]]:
        for part in parts_of(row[at], ";") or [""]:
            yield [*row[:at], part, *row[at + 1 :]]

    return header, work


def split_name(header: list[str]) -> tuple[list[str], Callable[[list[str]], Iterator[list[str]]]]:
    at = header.index("potter")

    def work(row: list[str]) -> Iterator[list[str]]:
        parts = parts_of(row[at], " ")
        title = parts.pop(0) if parts and TITLE.fullmatch(parts[0]) else ""
        first = parts.pop(0) if parts else ""
        middle = parts.pop(0) if parts and INITIAL.fullmatch(parts[0]) else ""
        yield [*row[:at], title, first, middle, " ".join(parts), *row[at + 1 :]]

    return [*header[:at], "title", "first_name", "middle", "last_name", *header[at + 1 :]], work


def split_pairs(header: list[str]) -> tuple[list[str], Callable[[list[str]], Iterator[list[str]]]]:
    at = header.index("pieces")

    def work(row: list[str]) -> Iterator[list[str]]:
        for pair in parts_of(row[at], ",") or [""]:
            piece, *made = MARK.split(pair, maxsplit=1)
            yield [*row[:at], piece.strip(), made[0].strip() if made else "", *row[at + 1 :]]

    return [*header[:at], "piece", "made", *header[at + 1 :]], work


CASES = {"list": split_list, "name": split_name, "pairs": split_pairs}


def main(case: str, extract: str, output: str) -> None:
    with (
        open(extract, encoding="utf-8", newline="") as source,
        open(output, "w", encoding="utf-8", newline="") as target,
    ):
        reader = csv.reader(source, delimiter=";")
        writer = csv.writer(target, delimiter=";", lineterminator="\n")
        header, work = CASES[case](next(reader))
        writer.writerow(header)
        for row in reader:
            writer.writerows(work(row))


if __name__ == "__main__":
    main(*sys.argv[1:])
