"""What an expression's names mean where it is, and the mistakes of types."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from dataclasses import field

from mangler.expressions.value import Bound, Kind
from mangler.language.mistake import Refusal, wrong_recipe
from mangler.language.scope import NO_NAMES, Scope
from mangler.language.source import SourceSpan
from mangler.late_dataclass import dataclass
from mangler.table.schema import Schema, ValueType

HIDDEN = "\0"
"""The names of columns that hold the values of calls start so, as no column of a table does."""


@dataclass(frozen=True)
class Surroundings:
    """The columns that can be named, and the recipe's own names. `cell` is the type of the cell in `change`.

    `arguments` are the parameters of the definition whose body this is; then no column can be named.
    """

    schema: Schema
    names: Scope = NO_NAMES
    cell: Kind = None
    has_cell: bool = False
    cell_places: int | None = None
    arguments: Mapping[str, Bound] | None = None
    clause_words: tuple[str, ...] = field(default=())
    expansions: Counter[str] = field(default_factory=Counter)
    """How often definitions were written out so far, `all` of them."""


def describe(kind: Kind) -> str:
    return "null" if kind is None else str(kind)


def wrong_type(what: str, bound: Bound, wanted: str, span: SourceSpan | None = None) -> Refusal:
    """`+ works on numbers, and peak_c is text`, with the way to a number."""
    spelled = bound.span.text
    return wrong_recipe(
        "wrong-type",
        f"{what} works on {wanted}, and {spelled} is {describe(bound.kind)}",
        way_out(bound, wanted),
        span or bound.span,
    )


def way_out(bound: Bound, wanted: str) -> str:
    spelled = bound.span.text
    name = {"numbers": "integer", "whole numbers": "integer", "dates": "date", "conditions": "boolean"}.get(
        wanted, wanted
    )
    if wanted in ("a condition", "conditions"):
        return f'Compare it: {spelled} = "…", or {spelled} is not null.'
    if bound.kind is ValueType.LIST:
        return (
            f'A list becomes a text with joined({spelled}, ", "), and item({spelled}, 1) is its first part.'
        )
    if wanted in ("text", "texts"):
        return f'As a text: text({spelled}), or in a text with holes: "{{{spelled}}}".'
    if bound.kind is ValueType.TEXT and name in ("integer", "date", "boolean", "timestamp", "time"):
        return f"Convert it first: {name}({spelled})." + (
            " With places: decimal(…)." if name == "integer" and wanted == "numbers" else ""
        )
    return _other_way(bound, spelled, wanted)


def _other_way(bound: Bound, spelled: str, wanted: str) -> str:
    """A way from one type to another that is no conversion."""
    kind = bound.kind
    if wanted in ("numbers", "whole numbers"):
        if kind is ValueType.BOOLEAN:
            return f"As a number: if {spelled} then 1 else 0."
        if kind in (ValueType.DATE, ValueType.TIMESTAMP):
            return f"A number of it: year({spelled}), month({spelled}), days_between({spelled}, other)."
        if kind is ValueType.TIME:
            return f"A number of it: hour({spelled}), minute({spelled})."
        if wanted == "whole numbers":
            return f"As a whole number: integer({spelled}), round({spelled})."
    if wanted == "lists":
        text = spelled if kind is ValueType.TEXT else f"text({spelled})"
        return f'A list comes from splitting a text: split({text}, ";").'
    if wanted == "dates" and kind in (ValueType.INTEGER, ValueType.FLOAT, ValueType.DECIMAL):
        return f"A column of serial numbers becomes dates with convert {spelled} to date written serial."
    if wanted == "times" and kind is ValueType.DATE:
        return f"A date has no time of day: timestamp({spelled}) is its midnight."
    return f"As a text: text({spelled})."
