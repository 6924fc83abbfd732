"""Finds the key that a text is nearest to, within a few edits: letters put in, left out or changed.

Candidates come from an index of pieces. A key is cut into one piece more than edits are allowed, so that one of them
is left as it is by so many edits, and is in the text at nearly the same place (Li, Deng, Wang and Feng,
"Pass-Join: a partition-based method for similarity joins", 2011).
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Hashable, Sequence
from itertools import pairwise

from mangler.blanks import BLANKS

MOST_EDITS = 3
LONGEST = 200
"""Characters of a text that near keys are looked for."""
MOST_ALIKE = 4000
"""Keys that one text is compared with: short keys by the ten thousand are all alike, and none of them is meant."""
NOTHING = str.maketrans("", "", BLANKS)


def near_form(text: str) -> str:
    """A text as it is compared: without letter case and white space."""
    return text.upper().lower().translate(NOTHING)


class NearIndex:
    """The texts of keys, each with what else must be the same (`groups`), and how many edits are allowed."""

    def __init__(self, texts: Sequence[str | None], groups: Sequence[Hashable], edits: int) -> None:
        self._edits = edits
        self._keys: list[list[int]] = []
        """For each form the keys that have it."""
        self._forms: list[str] = []
        self._pieces: dict[Hashable, list[int]] = defaultdict(list)
        self._lengths: dict[Hashable, set[int]] = defaultdict(set)
        known: dict[Hashable, int] = {}
        for key, (text, group) in enumerate(zip(texts, groups, strict=True)):
            if text is None or len(text) > LONGEST:
                continue
            form = near_form(text)
            if (group, form) not in known:
                known[group, form] = len(self._forms)
                self._add(group, form)
            self._keys[known[group, form]].append(key)

    def _add(self, group: Hashable, form: str) -> None:
        number = len(self._forms)
        self._forms.append(form)
        self._keys.append([])
        self._lengths[group].add(len(form))
        for place, (start, end) in enumerate(pieces_of(len(form), self._edits + 1)):
            self._pieces[group, len(form), place, form[start:end]].append(number)

    def nearest(self, text: str, group: Hashable) -> int | None:
        """The one key that is nearest; None where none is near, two are equally so, or too many are to be compared."""
        if len(text) > LONGEST:
            return None
        form, most = near_form(text), self._edits
        best, found = most + 1, set[int]()
        candidates = self._candidates(form, group)
        if len(candidates) > MOST_ALIKE:
            return None
        for number in candidates:
            distance = edits_between(form, self._forms[number], best)
            if distance < best:
                best, found = distance, {number}
            elif distance == best and distance <= most:
                found.add(number)
        keys = [key for number in found for key in self._keys[number]]
        return keys[0] if len(keys) == 1 else None

    def _candidates(self, form: str, group: Hashable) -> set[int]:
        """The forms that have a piece in common with this one, at nearly the same place."""
        found: set[int] = set()
        for length in range(max(0, len(form) - self._edits), len(form) + self._edits + 1):
            if length not in self._lengths.get(group, ()):
                continue
            for place, (start, end) in enumerate(pieces_of(length, self._edits + 1)):
                last = len(form) - (end - start)
                for at in range(max(0, start - self._edits), min(last, start + self._edits) + 1):
                    found.update(self._pieces.get((group, length, place, form[at : at + end - start]), ()))
        return found


def pieces_of(length: int, count: int) -> list[tuple[int, int]]:
    """A length cut into so many pieces of nearly the same size; some are empty where it is shorter than that."""
    edges = [length * number // count for number in range(count + 1)]
    return list(pairwise(edges))


def edits_between(one: str, other: str, most: int) -> int:
    """How many letters must be put in, left out or changed to make one of the other; more than `most` is `most + 1`."""
    if abs(len(one) - len(other)) > most:
        return most + 1
    before = list(range(len(other) + 1))
    for row, letter in enumerate(one, 1):
        now = [row]
        for column, its in enumerate(other, 1):
            if abs(row - column) > most:
                now.append(most + 1)
                continue
            changed = before[column - 1] + (letter != its)
            now.append(min(changed, before[column] + 1, now[column - 1] + 1))
        if min(now) > most:
            return most + 1
        before = now
    return min(before[-1], most + 1)
