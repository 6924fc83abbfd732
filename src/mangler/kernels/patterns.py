"""Patterns in RE2, which Arrow carries: matching takes linear time whatever the data."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache
from math import exp
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.text_view import Flags, TextArray
from mangler.kernels.truth import true_flags
from mangler.pattern_pieces import META, pieces

SAMPLE = 1024


def escape(text: str) -> str:
    """The pattern that matches just this text."""
    return META.sub(r"\\\1", text).replace("\0", r"\x00")


def flags_of(array: Any) -> Flags:
    """A boolean Arrow array as flags; null counts as off."""
    return true_flags(array)


def matches(array: TextArray, pattern: str) -> Flags:
    """Whether the pattern is found in each cell; off for nulls."""
    return flags_of(pc.match_substring_regex(array, pattern=pattern))


def values_recur(array: TextArray) -> bool:
    """Whether the first rows hold so few distinct values that work once a distinct value pays."""
    return len(array) > SAMPLE and len(array.slice(0, SAMPLE).unique()) < SAMPLE // 2


def few_distinct(array: TextArray) -> bool:
    """Whether a column seems to hold so few distinct values, a sixth of its cells, that encoding pays for costly work.

    So many distinct values in the sample speak for so many in all, if they are met alike often: the number D for which
    D * (1 - exp(-sample / D)) are expected.
    """
    if len(array) <= SAMPLE:
        return False
    met = len(array.slice(0, SAMPLE).unique())
    if met > SAMPLE * 0.95:
        return False
    low, high = met, SAMPLE * 20
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (middle, high) if middle * (1 - exp(-SAMPLE / middle)) < met else (low, middle)
    return high * 6 <= len(array)


def per_distinct(array: TextArray, work: Callable[[TextArray], Flags]) -> Flags:
    """Work that costs much a cell, done once a distinct value where values recur. Off for nulls."""
    if values_recur(array):
        encoded = array.dictionary_encode()
        codes = np.asarray(encoded.indices.fill_null(len(encoded.dictionary)))
        hits: Flags = np.append(work(encoded.dictionary), False)[codes]
        return hits
    return work(array)


@cache
def problem_of(pattern: str) -> str:
    """What RE2 has against a pattern; empty when it takes it."""
    depth = 0
    for piece in pieces(pattern):
        # Arrow tries a pattern in brackets of its own, between which these would be balanced.
        depth += 0 if piece.in_class else {"(": 1, ")": -1}.get(piece.text, 0)
        if depth < 0:
            return f"unexpected ): {pattern}"
    try:
        pc.match_substring_regex(pa.array([""]), pattern=pattern)
    except pa.ArrowInvalid as error:
        return str(error).removeprefix("Invalid regular expression: ")
    return ""


PROBES = ("", "a", " a1-", "é\n", ". ,;")


@cache
def matches_empty_text(pattern: str) -> bool:
    """Whether the pattern can match between two characters: it would be found everywhere."""
    marked = pc.replace_substring_regex(pa.array(PROBES), pattern=pattern, replacement=r"<\0>")
    return any("<>" in probe for probe in marked.to_pylist())


@cache
def groups(pattern: str) -> tuple[tuple[int, int, str], ...]:
    """The groups that a pattern captures: where the opening bracket starts and ends, name included, and the name."""
    found: list[tuple[int, int, str]] = []
    for piece in pieces(pattern):
        if piece.text != "(" or piece.in_class:
            continue
        offset = piece.offset
        opening = next((mark for mark in ("(?P<", "(?<") if pattern.startswith(mark, offset)), "")
        if opening:
            end = pattern.find(">", offset)
            found.append((offset, end + 1, pattern[offset + len(opening) : end]))
        elif not pattern.startswith("(?", offset):
            found.append((offset, offset + 1, ""))
    return tuple(found)


def group_count(pattern: str) -> int:
    """How many groups a pattern captures."""
    return len(groups(pattern))
