"""Cutting a cell into parts in plain Python, to hold the kernels against."""

from __future__ import annotations

import re

from mangler.blanks import BLANKS
from mangler.kernels.text.delimiters import Delimiters


def python_pattern(pattern: str) -> str:
    return pattern.replace(r"\z", r"\Z")


def hits_of(cell: str, delimiters: Delimiters) -> list[tuple[int, int]]:
    """Where delimiters start and end, in characters."""
    if delimiters.positions:
        hits = [(at, at) for at in sorted(set(delimiters.positions)) if at < len(cell)]
    else:
        texts = sorted(delimiters.texts, key=lambda text: -len(text))
        case = "(?i:" if delimiters.anycase else "(?:"
        parts = [case + re.escape(text) + ")" for text in texts]
        parts += [f"(?:{python_pattern(pattern)})" for pattern in delimiters.patterns]
        hits = [match.span() for match in re.finditer("|".join(parts), cell) if match.group()]
    if delimiters.quoted:
        quotes = [at for at, character in enumerate(cell) if character == '"']
        quotes = quotes[: len(quotes) // 2 * 2]
        hits = [hit for hit in hits if sum(at < hit[0] for at in quotes) % 2 == 0]
    if delimiters.inner:
        start, end = len(cell) - len(cell.lstrip(BLANKS)), len(cell.rstrip(BLANKS))
        hits = [hit for hit in hits if hit[1] > start and hit[0] < end]
    return hits[:1] if delimiters.which == "first" else hits[-1:] if delimiters.which == "last" else hits


def parts_of(
    cell: str | None, delimiters: Delimiters, trim: bool = True, drop_empty: bool = False
) -> list[str]:
    if cell is None or not cell.strip(BLANKS):
        return []
    splitters = [0, *(at for hit in hits_of(cell, delimiters) for at in hit), len(cell)]
    parts = [cell[start:end] for start, end in zip(splitters[::2], splitters[1::2], strict=True)]
    if trim:
        parts = [part.strip(BLANKS) for part in parts]
    if delimiters.quoted:
        parts = [unquoted(part) for part in parts]
    return [part for part in parts if part or not drop_empty]


def unquoted(part: str) -> str:
    inner = part[1:-1]
    if len(part) >= 2 and part[0] == part[-1] == '"' and '"' not in inner.replace('""', ""):
        return inner.replace('""', '"')
    return part
