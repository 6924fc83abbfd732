"""The functions of the language, by family."""

from __future__ import annotations

from mangler.expressions.function import Function
from mangler.expressions.functions import (
    calendar,
    dates,
    durations,
    json_values,
    lists,
    nulls,
    numbers,
    privacy,
    run,
    searching,
    texts,
)

FAMILIES: dict[str, tuple[Function, ...]] = {
    "text": (*texts.FUNCTIONS, *searching.FUNCTIONS, json_values.JSON_AT, *privacy.FUNCTIONS),
    "lists": (*lists.FUNCTIONS, json_values.JSON_LIST),
    "numbers": numbers.FUNCTIONS,
    "dates": (*dates.FUNCTIONS, *calendar.FUNCTIONS, *durations.FUNCTIONS),
    "nulls and types": nulls.FUNCTIONS,
    "the run": run.FUNCTIONS,
}
"""In the order of the reference."""

FUNCTIONS = {function.name: function for family in FAMILIES.values() for function in family}


def function_named(name: str) -> Function | None:
    return FUNCTIONS.get(name)


def family_of(name: str) -> str:
    return next(family for family, functions in FAMILIES.items() if any(f.name == name for f in functions))
