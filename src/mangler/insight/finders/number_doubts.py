"""Reasons against taking a column for plain numbers: letters, marks, and digits that may be codes."""

from __future__ import annotations

from collections import Counter

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.insight.columns.content import Content
from mangler.language.spelling import spell_text

MANY = 5
ORDINALS = frozenset(("st", "nd", "rd", "th", "º", "ª", "er", "ème", "te", "ter"))
KNOWN_LETTERS = frozenset("gmlshtWVAKJNCFkM")
"""Letters that are a unit, or multiply."""
COMPARING = frozenset("<>≤≥~≈±*#†?!=")
UNIT_MARKS = frozenset("%‰°′″$€£¥₹₽¢µΩ²³/")


def doubt_of_units(units: Counter[str]) -> str:
    """What is beside numbers and is no unit: it says that they are about so, or beyond."""
    marks = [unit for unit in units if set(unit) & COMPARING]
    if marks:
        return f"What does {marks[0]} beside a number mean, and may it go?"
    strange = [unit for unit in units if unit and not _is_unit(unit)]
    return f"Is {spell_text(strange[0])} beside the numbers a unit that may go?" if strange else ""


def _is_unit(unit: str) -> bool:
    """Whether it is a word, or a mark that amounts and shares are written with."""
    if len(unit) == 1 and unit.isascii() and unit.isalpha():
        return unit in KNOWN_LETTERS
    plain = unit.strip(".")
    return any(one.isalpha() for one in plain) or (all(one in UNIT_MARKS for one in plain) and bool(plain))


def doubt_of_codes(numbers: Content) -> str:
    """Whole numbers of five or six digits, all of one length, may be codes; with the reasons for and against it."""
    if not numbers.matching(r"^\d{5,6}$").all():
        return ""
    lengths = np.asarray(pc.utf8_length(numbers.texts))
    if len(numbers) < MANY or lengths.min() != lengths.max():
        return ""
    values = np.sort(np.asarray(pc.cast(numbers.texts, pa.int64())))
    size = int(lengths[0])
    used = (values[-1] - values[0]) / (9 * 10 ** (size - 1))
    steps = np.diff(values)
    evidence = [f"all have {size} digits", f"from {values[0]} to {values[-1]}"]
    evidence.append(
        "spread over most of the numbers of that length" if used > 0.5 else "close to one another"
    )
    if len(steps) and (steps == 1).mean() > 0.5:
        evidence.append("most follow one another")
    return f"Are these numbers, or codes that nobody adds up? They {'; '.join(evidence)}; none starts with 0."


def doubt_of_points(numbers: Content) -> str:
    """A question where some numbers have a point before their places, and others a comma."""
    if not pc.any(pc.match_substring(numbers.texts, pattern=",")).as_py():
        return ""
    commas = numbers.where(numbers.matching(r"^[+-]?\d+,(?:\d{1,2}|\d{4,})$"))
    points = numbers.where(numbers.matching(r"^[+-]?\d+\.(?:\d{1,2}|\d{4,})$"))
    if not len(commas) or not len(points):
        return ""
    if not numbers.matching(r"^[+-]?\d+(?:[.,]\d+)?$").all():
        return ""
    return f"Do {commas.most(1)[0][0]} and {points.most(1)[0][0]} have the same mark before their places?"


def are_letters(said: Content, units: Counter[str]) -> bool:
    """Whether what follows the numbers is no unit: an ordinal's ending, or letters of codes like 12A and 7C."""
    words = [unit for unit in units if unit]
    if words and all(word.lower() in ORDINALS for word in words):
        return True
    letters = [word for word in words if len(word) == 1 and word.isascii() and word.isalpha()]
    if not letters:
        return False
    glued = said.cells_of(said.matching(r"^\d+[A-Za-z]$|^[A-Za-z]\d+$"))
    if len(letters) > 1:
        return glued > 0
    return glued > 0 and letters[0] not in KNOWN_LETTERS and units[letters[0]] < said.cells
