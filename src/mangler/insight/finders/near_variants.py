"""Typing slips: rare values that are nearly a frequent one."""

from __future__ import annotations

import re

import numpy as np

from mangler.insight.columns.column import Column
from mangler.insight.columns.content import Content, folded_groups
from mangler.insight.columns.finding import Finding, Found, Kind, Proposal, Stage
from mangler.insight.columns.shape_kinds import ShapeKind
from mangler.language.spelling import spell_text
from mangler.late_dataclass import dataclass

SHORTEST = 4
"""Characters; a slip in a shorter word makes another word."""
TWO_SLIPS_FROM = 10
"""Characters from which two slips are looked for."""
LEAST_USUAL = 3
RARE = 0.2
"""The share of the usual value's cells that a slip may have at most."""
RARE_IF_PLAIN = 0.8
"""The same where a letter is doubled, left out or swapped with its neighbour inside a long word."""
PLAIN_FROM = 6
LEAST_EACH = 3
"""Cells of each value, on average, from which the column is a closed set."""
MOST_USUAL, MOST_RARE = 500, 3_000
CROWDED = 0.3
"""Where more than this share of the values has a neighbour about as frequent, they are codes or a series."""
MOST_PAIRS = 8
WORDY = (ShapeKind.WORD, ShapeKind.CODE, ShapeKind.PROSE)


@dataclass(frozen=True)
class Slip:
    rare: str
    usual: str
    cells: int


def find_near_variants(column: Column, content: Content, in_list: bool) -> Found:
    """`content` is what the column says, or the parts of its lists. A person decides about each slip."""
    found = Found()
    if (column.of_codes or column.is_free_text) and not in_list:
        return found
    if len(content) * LEAST_EACH > content.cells:
        return found  # no closed set: what is nearly alike are other things
    slips = slips_of(content)
    if not slips:
        return found
    cells = sum(slip.cells for slip in slips)
    shown = ", ".join(f"{slip.rare} for {slip.usual}" for slip in slips[:3])
    message = f"perhaps slips: {shown}" + (f" and {len(slips) - 3} more" if len(slips) > 3 else "")
    first = slips[0]
    question = f"Is {spell_text(first.rare)} a slip for {spell_text(first.usual)}?"
    if len(slips) > 1:
        question = "Is each of these a slip?"
    found.findings.append(
        Finding(
            Kind.NEAR_VARIANTS,
            cells,
            message,
            question,
            tuple(slip.rare for slip in slips),
        )
    )
    pairs = ", ".join(f"{spell_text(slip.rare)} with {spell_text(slip.usual)}" for slip in slips[:MOST_PAIRS])
    step = f"replace {pairs} in {column.spelled} anycase{'' if in_list else ' whole'}"
    found.proposals.append(Proposal(Stage.SPELLING, step, (Kind.NEAR_VARIANTS,), message, question))
    return found


def slips_of(content: Content) -> list[Slip]:
    """Slips, those of most cells first. Letter case does not count, and differing digits are no slip."""
    from rapidfuzz.distance import OSA
    from rapidfuzz.process import cdist

    codes, cells = folded_groups(content)
    first: dict[int, int] = {}
    for index in np.argsort(-content.counts, kind="stable").tolist():
        first.setdefault(int(codes[index]), index)
    groups = sorted(first, key=lambda code: -int(cells[code]))
    words = [
        (code, content.values[first[code]])
        for code in groups
        if len(content.values[first[code]]) >= SHORTEST and content.kind_at(first[code]) in WORDY
    ]
    usual = [one for one in words if cells[one[0]] >= LEAST_USUAL][:MOST_USUAL]
    rare = words[-MOST_RARE:]
    if not usual or len(words) < 2:
        return []
    folded = {code: " ".join(text.upper().lower().split()) for code, text in words}
    distances = cdist(
        [folded[code] for code, _ in rare],
        [folded[code] for code, _ in usual],
        scorer=OSA.distance,
        score_cutoff=2,
    )
    near = [
        (i, j)
        for i, j in np.argwhere((distances > 0) & (distances <= 2)).tolist()
        if _is_near(folded[rare[i][0]], folded[usual[j][0]], int(distances[i, j]))
    ]
    slips: dict[str, Slip] = {}
    crowded: set[int] = set()
    for i, j in sorted(near, key=lambda pair: (distances[pair[0], pair[1]], pair[1])):
        (code, text), (of_usual, right) = rare[i], usual[j]
        limit = RARE_IF_PLAIN if _is_plain(folded[code], folded[of_usual]) else RARE
        if cells[code] > limit * cells[of_usual]:
            crowded |= {code, of_usual} if cells[code] <= cells[of_usual] else set()
        elif text not in slips and right not in slips:
            slips[text] = Slip(text, right, int(cells[code]))
    if len(crowded) > CROWDED * len(words):
        return []
    return sorted(slips.values(), key=lambda slip: -slip.cells)


def _is_near(rare: str, usual: str, distance: int) -> bool:
    if distance > (2 if min(len(rare), len(usual)) >= TWO_SLIPS_FROM else 1):
        return False
    return (
        _digits(rare) == _digits(usual)
        and not _is_inflected(rare, usual)
        and not _differ_in_words(rare, usual)
    )


def _differ_in_words(one: str, other: str) -> bool:
    """Whether a short word differs as a whole, as in kiln a and kiln b, or in two letters, as in north-east."""
    ours, theirs = re.findall(r"[^\W_]+", one), re.findall(r"[^\W_]+", other)
    if len(ours) != len(theirs):
        return False
    return any(our != their and not _is_one_slip(our, their) for our, their in zip(ours, theirs, strict=True))


def _is_one_slip(one: str, other: str) -> bool:
    """Whether words differ in few enough letters for their length; letters that changed places are one slip."""
    shorter = min(len(one), len(other))
    if len(one) != len(other):
        return shorter >= 2
    differing = [index for index, (a, b) in enumerate(zip(one, other, strict=True)) if a != b]
    if shorter >= TWO_SLIPS_FROM:
        return True
    swapped = sorted(one) == sorted(other) and len(differing) == 2
    return shorter >= SHORTEST - 1 and (len(differing) == 1 or swapped)


def _digits(text: str) -> str:
    return "".join(filter(str.isdigit, text))


def _is_inflected(one: str, other: str) -> bool:
    """Whether one is the other with an ending or a number word in front: bowl and bowls are both words."""
    short, long = sorted((one, other), key=len)
    return long.startswith(short) and long[len(short) :] in (
        "s",
        "e",
        "n",
        "a",
        "y",
        "r",
        "d",
        "i",
        "es",
        "ed",
        "er",
        "en",
    )


def _is_plain(rare: str, usual: str) -> bool:
    """Whether one letter is left out, doubled or swapped with its neighbour, inside a word long enough."""
    if min(len(rare), len(usual)) < PLAIN_FROM or rare[0] != usual[0]:
        return False
    if len(rare) == len(usual):
        return sorted(rare) == sorted(usual)
    return abs(len(rare) - len(usual)) == 1
