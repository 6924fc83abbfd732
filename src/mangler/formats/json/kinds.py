"""What the values of a column are in JSON, and the type of a column that holds them all."""

from __future__ import annotations

from dataclasses import field
from decimal import Decimal
from enum import Enum
from typing import Any

import pyarrow as pa

from mangler.late_dataclass import dataclass

EXACT_IN_FLOAT = 2**53
LARGEST_64, MOST_DIGITS = 2**63 - 1, 38


class Kind(Enum):
    """A kind of value. `LONG` are numbers that neither 64 bits nor a float hold."""

    BOOLEAN = "true or false"
    INTEGER = "whole numbers"
    FLOAT = "numbers"
    LONG = "long numbers"
    TEXT = "texts"
    LIST = "lists"
    OBJECT = "objects"
    TREE = "lists of objects or lists"


NONE = type(None)
SCALARS = {Kind.BOOLEAN, Kind.INTEGER, Kind.FLOAT, Kind.LONG, Kind.TEXT}
KIND_OF = {
    bool: Kind.BOOLEAN,
    int: Kind.INTEGER,
    float: Kind.FLOAT,
    Decimal: Kind.LONG,
    str: Kind.TEXT,
    dict: Kind.OBJECT,
}


@dataclass
class Facts:
    """What was seen of a column's values. Numbers of digits are those of its integers and long numbers."""

    kinds: set[Kind] = field(default_factory=set)
    elements: set[Kind] = field(default_factory=set)
    """Kinds of what its lists hold."""
    least: int = 0
    greatest: int = 0
    """Of its integers."""
    digits: int = 0
    """Before the point, of its long numbers."""
    places: int = 0

    def add(self, other: Facts) -> None:
        self.kinds |= other.kinds
        self.elements |= other.elements
        self.least, self.greatest = min(self.least, other.least), max(self.greatest, other.greatest)
        self.digits, self.places = max(self.digits, other.digits), max(self.places, other.places)


def facts_of(values: list[Any], types: frozenset[type]) -> Facts:
    """What is seen of a piece of a column, whose values are of these types; None is null."""
    types -= {NONE}
    facts = Facts({KIND_OF[kind] for kind in types if kind is not list})
    if int in types:
        is_alone = len(types) == 1 and None not in values
        numbers = values if is_alone else [value for value in values if type(value) is int]
        facts.least, facts.greatest = min(0, min(numbers)), max(0, max(numbers))
    if Decimal in types:
        _note_long(facts, [value for value in values if type(value) is Decimal])
    if list in types:
        facts.elements = {KIND_OF.get(kind, Kind.TREE) for kind in _element_types(values)}
        is_tree = facts.elements & {Kind.OBJECT, Kind.TREE, Kind.LONG}
        facts.kinds.add(Kind.TREE if is_tree else Kind.LIST)
    return facts


def _element_types(values: list[Any]) -> set[type]:
    found: set[type] = set()
    for value in values:
        if type(value) is list:
            found |= set(map(type, value))
    return found - {NONE}


def _note_long(facts: Facts, numbers: list[Decimal]) -> None:
    for number in numbers:
        exponent = number.as_tuple().exponent
        places = max(0, -exponent) if isinstance(exponent, int) else 0
        facts.places = max(facts.places, places)
        facts.digits = max(facts.digits, number.adjusted() + 1, 1)


@dataclass(frozen=True)
class Target:
    """How a column is kept: as this Arrow type; `is_tree` for values as JSON in a text."""

    type: Any
    is_tree: bool = False
    mixed: str = ""
    """What the column holds, where that is of several kinds."""


def target_of(facts: Facts) -> Target | None:
    """The type of a column whose values are like this; None for one of objects only, whose columns are apart."""
    kinds = facts.kinds
    if kinds == {Kind.OBJECT}:
        return None
    if kinds == {Kind.LIST}:
        return Target(pa.list_(_element_type(facts.elements)))
    if not kinds <= SCALARS:
        return Target(pa.string(), is_tree=True, mixed=_told(kinds) if len(kinds) > 1 else "")
    if kinds <= {Kind.TEXT}:
        return Target(pa.string())
    if kinds == {Kind.BOOLEAN}:
        return Target(pa.bool_())
    if Kind.TEXT in kinds or Kind.BOOLEAN in kinds:
        return Target(pa.string(), mixed=_told(kinds))
    return _number_target(facts)


def _told(kinds: set[Kind]) -> str:
    """Several kinds of values. Whole numbers are numbers too, so they are reported only where there are no others."""
    different = kinds - {Kind.INTEGER} if Kind.FLOAT in kinds else kinds
    return " and ".join(sorted(kind.value for kind in different))


def _number_target(facts: Facts) -> Target:
    kinds = facts.kinds
    fits_64 = facts.greatest <= LARGEST_64
    if kinds == {Kind.INTEGER}:
        if fits_64:
            return Target(pa.int64())
        return Target(pa.uint64() if facts.least >= 0 else pa.decimal128(20, 0))
    widest = max(facts.greatest, -facts.least)
    if Kind.LONG not in kinds and widest <= EXACT_IN_FLOAT:
        return Target(pa.float64())
    digits = max(facts.digits, len(str(widest)))
    if Kind.FLOAT not in kinds and digits + facts.places <= MOST_DIGITS:
        return Target(pa.decimal128(max(1, digits + facts.places), facts.places))
    return Target(pa.string(), mixed="numbers that no type holds exactly")


def _element_type(elements: set[Kind]) -> Any:
    if elements == {Kind.INTEGER}:
        return pa.int64()
    if elements and elements <= {Kind.INTEGER, Kind.FLOAT}:
        return pa.float64()
    return pa.bool_() if elements == {Kind.BOOLEAN} else pa.string()
