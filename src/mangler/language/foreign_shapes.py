"""Whole statements from elsewhere, known by their shape, and the line to write with the user's own words in it."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from functools import cache
from typing import TypeAlias

Line: TypeAlias = str | Callable[[re.Match[str]], str]
NAME = r"(?:\[[^\]]+\]|[^\W\d]\w*)"
COLUMN = rf"(?P<column>{NAME})"
MADE = r"(?P<before>make\s+.+?=\s*)"
LONGEST = 400
"""Characters of a statement that is looked at: what somebody types by hand, and no pattern takes long on it."""
TYPES: Mapping[str, str] = {
    **dict.fromkeys(("int", "bigint", "int64", "long", "smallint"), "integer"),
    **dict.fromkeys(("str", "string", "varchar", "char"), "text"),
    **dict.fromkeys(("double", "real", "float64", "number", "numeric"), "float"),
    **dict.fromkeys(("bool",), "boolean"),
    **dict.fromkeys(("datetime",), "timestamp"),
}
"""Names of types elsewhere. A number may be whole or not: float takes both."""
AGGREGATES: Mapping[str, str] = {"avg": "mean", "average": "mean", "total": "sum"}


def _typed(word: str) -> str:
    return TYPES.get(word.lower(), word.lower())


def _set_where(found: re.Match[str]) -> str:
    where = f" where {found['where']}" if found["where"] else ""
    return f"make {found['name']} = {found['value']}{where}"


def _selected(found: re.Match[str]) -> str:
    more = "" if found["columns"].strip() == "*" else f", then keep columns {found['columns'].strip()}"
    return f"keep rows where {found['where']}{more}"


def _put_together(found: re.Match[str]) -> str:
    columns = re.sub(r"\s+and\s+|\s*\+\s*", ", ", found["columns"].strip())
    return f'join {columns} with " " into {found["name"]}'


def _grouped(found: re.Match[str]) -> str:
    function, column = found["function"].lower(), found["column"] or ""
    function = AGGREGATES.get(function, function)
    column = "" if function == "count" else column
    name = f"{column}_{function}" if column else "rows"
    return f"group by {found['keys'].strip().rstrip(',')} with {name} = {function}({column})"


def _windowed(found: re.Match[str]) -> str:
    order = f" sorted by {found['order'].strip()}" if found["order"] else ""
    return f"{found['made'].strip()} within {(found['keys'] or 'all rows').strip()}{order}"


def _converted(found: re.Match[str]) -> str:
    form = f" written {found['form']}" if found.groupdict().get("form") else ""
    return f"convert {found['column'].strip()} to {_typed(found['type'])}{form}"


def _squared(found: re.Match[str]) -> str:
    return f"{found['before']}{' * '.join([found['base']] * min(int(found['power']), 4))}"


SHAPES: tuple[tuple[str, Line], ...] = (
    (
        r"(?:set|update|new|add|create|compute|assign|mutate|let|derive)(?: column)?\s+"
        rf"(?P<name>{NAME})\s*=(?!=)\s*(?P<value>.+?)(?:\s+where\s+(?P<where>.+))?",
        _set_where,
    ),
    (r"select\s+(?P<columns>.+?)\s+(?:from\s+\S+\s+)?where\s+(?P<where>.+)", _selected),
    (
        rf"(?:concat\w*|combine|paste|unite)\s+(?P<columns>.+?)\s+(?:into|as|to)\s+(?P<name>{NAME})",
        _put_together,
    ),
    (
        r"(?:merge|vlookup|xlookup|join|(?:left|inner|outer)(?: join)?)\s+(?:with\s+)?"
        r"(?P<file>\"[^\"]+\"|'[^']+')\s+(?:on|by|using)\s+(?P<keys>[\w\s,\[\]]+?)",
        "lookup {file} on {keys} bring NAME",
    ),
    (
        r"(?:cast|convert|parse|change)\s+(?P<column>.+?)\s+as\s+(?P<type>\w+)(?:\s+(?P<form>\"[^\"]+\"))?",
        _converted,
    ),
    (rf"convert\s+(?P<column>.+?)\s+(?:to|into)\s+(?P<type>{'|'.join(TYPES)})", _converted),
    (r"(?:forward|down)[ _]?fill\s+(?P<columns>.+)", "fill {columns} down"),
    (r"(?:backward|back|up)[ _]?fill\s+(?P<columns>.+)", "fill {columns} up"),
    (
        rf"rename\s+(?:columns?\s+)?(?P<old>{NAME})\s*(?:->|=>|=|:|\bas\b|\bto\b|\binto\b)\s*(?P<new>{NAME})",
        "rename {old} to {new}",
    ),
    (r"keep rows?\s+(?:top|first|head|limit)\s+(?P<number>\d+)", "keep first {number} rows"),
    (r"keep rows?\s+(?:bottom|last|tail)\s+(?P<number>\d+)", "keep last {number} rows"),
    (
        r"keep rows?\s+where\s+(?:rownum|row_number|rowid|_n)\s*<=\s*(?P<number>\d+)",
        "keep first {number} rows",
    ),
    (rf"sort\s+(?:by\s+)?-\s*{COLUMN}", "sort by {column} descending"),
    (
        rf"sort\s+(?:by\s+)?{COLUMN}\s+(?:desc|down|reverse|descending)",
        "sort by {column} descending",
    ),
    (rf"sort\s+(?:by\s+)?{COLUMN}\s+(?:asc|up|ascending)", "sort by {column}"),
    (
        r"group\s+by\s+(?P<keys>[\w\s,\[\]]+?)[\s,]+(?P<function>sum|count|avg|average|mean|min|max|median|total)"
        rf"\s*\(?\s*{COLUMN}?\*?\s*\)?",
        _grouped,
    ),
    (
        r"(?P<made>make\s+.+?=.+?\))\s+(?:by|per|for each|group(?:ed)? by)\s+(?P<keys>[\w\s,\[\]]+)",
        "{made} within {keys}",
    ),
    (
        r"dedupe\s+(?:by|on)\s+(?P<keys>[\w\s,\[\]]+?)\s+(?:keep|keeping|retain)\s+(?P<which>first|last)",
        "dedupe by {keys} leaving {which}",
    ),
    (
        r"(?P<made>(?:make|change|number rows).+?)\s+over\s*\(\s*(?:partition\s+by\s+(?P<keys>[^()]+?))?"
        r"\s*(?:order\s+by\s+(?P<order>[^()]+?))?\s*\)",
        _windowed,
    ),
    (
        rf"{MADE}(?:case\s+)?when\s+(?P<condition>.+?)\s+then\s+(?P<then>.+?)\s+"
        r"(?:otherwise|else)\s+(?P<other>.+?)(?:\s+end)?",
        "{before}if {condition} then {then} else {other}",
    ),
    (
        r"(?P<before>make\s+[^=]+=\s*)(?P<condition>[^?\"']+?)\s*\?\s*(?P<then>[^:?]+?)\s*:\s*(?P<other>[^:?]+)",
        "{before}if {condition} then {then} else {other}",
    ),
    (rf"{MADE}(?P<base>{NAME})\s*(?:\*\*|\^)\s*(?P<power>[2-4])", _squared),
    (
        rf"{MADE}{COLUMN}\.(?P<part>year|month|day|hour|minute)",
        "{before}{part}({column})",
    ),
    (
        rf"{MADE}{COLUMN}\[\s*0?\s*:\s*(?P<count>\d+)\s*\]",
        "{before}left({column}, {count})",
    ),
    (
        rf"{MADE}{COLUMN}\.split\((?P<mark>\"[^\"]+\"|'[^']+')\)\[0\]",
        "{before}part({column}, {mark}, 1)",
    ),
    (
        rf"(?P<verb>keep|drop) rows\s+where\s+{COLUMN}\s+is\s+"
        r"(?:not\s+)?(?:a\s+)?(?:duplicated?|unique|distinct)",
        "dedupe by {column}, or make n = count() within {column} and compare n with 1",
    ),
)


@cache
def _compiled() -> list[tuple[re.Pattern[str], Line]]:
    """Only a mistake needs them."""
    return [(re.compile(pattern, re.IGNORECASE), line) for pattern, line in SHAPES]


def line_for_shape(typed: str) -> str:
    """The line to write for a statement of a known shape; nothing for any other."""
    typed = " ".join(typed[: LONGEST + 1].split())
    if len(typed) > LONGEST:
        return ""
    for pattern, line in _compiled():
        found = pattern.fullmatch(typed)
        if found is not None:
            return line(found) if callable(line) else line.format(**found.groupdict())
    return ""
