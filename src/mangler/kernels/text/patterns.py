"""Patterns in RE2, which Arrow carries: matching takes linear time whatever the data."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache
from math import exp

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.arrow import ColumnArray
from mangler.kernels.text.dictionary import as_dictionary
from mangler.kernels.text.text_view import Flags, TextArray, TooLargeError, view
from mangler.kernels.text.truth import true_flags
from mangler.pattern_pieces import META, pieces

SAMPLE = 1024


def escape(text: str) -> str:
    """The pattern that matches just this text."""
    return META.sub(r"\\\1", text).replace("\0", r"\x00")


def flags_of(array: ColumnArray) -> Flags:
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
    """Work that costs much per cell, done once per distinct value where values recur. Off for nulls."""
    if values_recur(array):
        encoded = as_dictionary(array)
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


WORK = 2 * 10**9
"""Steps over the bytes of one cell that looking for all matches of a pattern may take: a few seconds."""


class TooMuchWorkError(TooLargeError):
    """A pattern would look through a cell again and again."""


def refuse_too_much_work(array: TextArray, pattern: str) -> None:
    """Refuses to look for all matches where each may cost a look to the end of a long cell.

    A single search takes linear time. All matches do not where one is found only after a longer one was looked for in
    vain, as in `x.*y|x`: then each costs what is left of the cell. So of such a pattern only so many matches are looked
    for in a cell that together they stay within the bound.
    """
    if not looks_far(pattern):
        return
    lengths = pc.binary_length(array).fill_null(0)
    for index in np.flatnonzero(np.asarray(lengths).astype(np.int64) ** 2 > WORK).tolist():
        cell = array.slice(index, 1)
        length = int(lengths[index].as_py())
        most = max(1, WORK // length)
        some = pc.replace_substring_regex(cell, pattern=pattern, replacement="\0", max_replacements=most + 1)
        if view(some).data.tobytes().count(b"\0") > most:
            raise TooMuchWorkError(
                f"this pattern has more than {most:,} matches in a cell of {length:,} bytes, and for each of them"
                " it may look through all that follows"
            )


@cache
def looks_far(pattern: str) -> bool:
    """Whether a match can be found after a longer one was looked for in vain over any number of characters.

    That takes a choice, `|`, `?`, `*` or `+`, with something inside that goes on without end and must then be followed
    by something else. Where the pattern cannot be distinguished, it is taken for one that does.
    """
    try:
        return _Shape(pattern).looks_far
    except IndexError:
        return True


class _Shape:
    """A pattern read just far enough to see what of it may go on without end before it is a match."""

    def __init__(self, pattern: str) -> None:
        self._pieces = list(pieces(pattern))
        self._at = 0
        self.looks_far = False
        self._alternatives()

    def _alternatives(self) -> tuple[bool, bool, bool]:
        """Of what is in one pair of brackets: whether it may be empty, goes on without end, and does so in vain."""
        branches = [self._sequence()]
        while self._at < len(self._pieces) and self._is("|"):
            self._at += 1
            branches.append(self._sequence())
        empty, endless, vain = (any(branch[which] for branch in branches) for which in range(3))
        self.looks_far |= vain and len(branches) > 1
        return empty, endless, vain

    def _sequence(self) -> tuple[bool, bool, bool]:
        parts = []
        while self._at < len(self._pieces) and not self._is("|") and not self._is(")"):
            parts.append(self._quantified())
        rest_empty, vain = True, False
        for empty, endless, in_vain in reversed(parts):
            vain |= in_vain or (endless and not rest_empty)
            rest_empty &= empty
        return rest_empty, any(endless for _, endless, _ in parts), vain

    def _quantified(self) -> tuple[bool, bool, bool]:
        empty, endless, vain = self._atom()
        while self._at < len(self._pieces) and not self._pieces[self._at].in_class:
            mark = self._pieces[self._at].text
            if mark == "{":
                text = ""
                while not text.endswith("}"):
                    text += self._pieces[self._at].text
                    self._at += 1
                bounds = text[1:-1].split(",")
                more = len(bounds) > 1 and not bounds[1]
                none = bounds[0] in ("", "0")
            elif mark in ("*", "+", "?"):
                self._at += 1
                more, none = mark != "?", mark != "+"
            else:
                break
            self.looks_far |= vain and (more or none)
            empty, endless = empty or none, endless or more
        return empty, endless, vain

    def _atom(self) -> tuple[bool, bool, bool]:
        piece = self._pieces[self._at]
        self._at += 1
        if piece.text == "(":
            if self._is("?"):
                while not (self._is(":") or self._is(">") or self._is(")")):
                    self._at += 1
                if self._is(")"):  # flags for what follows
                    self._at += 1
                    return True, False, False
                self._at += 1
            inside = self._alternatives()
            self._at += 1  # the closing bracket
            return inside
        if piece.text.startswith("["):
            while self._pieces[self._at].in_class:
                self._at += 1
                if self._at == len(self._pieces):
                    break
            return False, False, False
        return False, False, False

    def _is(self, text: str) -> bool:
        piece = self._pieces[self._at]
        return piece.text == text and not piece.in_class


def group_count(pattern: str) -> int:
    """How many groups a pattern captures."""
    return len(groups(pattern))
