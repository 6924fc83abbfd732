"""Lines of JSON as values: by orjson where it keeps everything, by an exact reader where it would not.

orjson rounds numbers of too many digits, and keeps only the last of two values under one key. Both are looked for in
the bytes first. RFC 8259 leaves open what happens to repeated keys: here such an object is no row.
"""

from __future__ import annotations

import json
import re
from collections.abc import Sequence
from decimal import Decimal, InvalidOperation
from typing import Any

import orjson

from mangler.formats.json.long_numbers import (
    LARGEST,
    LEAST,
    MOST_DIGITS,
    has_long_number,
    lines_with_long_numbers,
)

KEY = re.compile(rb'"\s*:')
SURROGATE = re.compile(rb"\\u[dD][89a-fA-F]")
LONE_SURROGATE = "is not JSON: it holds half of a character (a lone surrogate)"
NO_ROW = object()
"""Stands for a line that is no row."""


class NotARowError(Exception):
    """Why a line is no row of the table."""


def rows_of(lines: Sequence[bytes]) -> tuple[list[Any], dict[int, str]]:
    """The objects of these lines, and for each line that is none, by its index, why; its object is empty."""
    rows, reasons = _fast(lines)
    if rows is None:
        rows, reasons = [], {}
        for index, line in enumerate(lines):
            try:
                rows.append(_row(line))
            except NotARowError as error:
                rows.append({})
                reasons[index] = str(error)
    for index in _doubtful(lines, rows, reasons):
        try:
            rows[index] = exact_row(lines[index])
        except NotARowError as error:
            rows[index] = {}
            reasons[index] = str(error)
    return rows, reasons


def _fast(lines: Sequence[bytes]) -> tuple[list[Any] | None, dict[int, str]]:
    """All lines, where every one of them is an object."""
    try:
        rows: list[Any] = list(map(orjson.loads, lines))
    except orjson.JSONDecodeError:
        return None, {}
    return (rows, {}) if set(map(type, rows)) <= {dict} else (None, {})


def _row(line: bytes) -> dict[str, Any]:
    try:
        row = orjson.loads(line)
    except orjson.JSONDecodeError as error:
        if has_long_number(line):
            return exact_row(line)
        raise NotARowError(_told(error)) from None
    if type(row) is not dict:
        raise NotARowError(f"is not an object, but {_kind_of(row)}")
    return row


def _told(error: orjson.JSONDecodeError) -> str:
    """Why a line is not JSON, without the place in what was put together of several."""
    why = str(error).split(": line ")[0]
    if "UTF-8" in why:
        return "is not UTF-8"
    if "surrogate" in why:
        return LONE_SURROGATE
    if "depth" in why or "recursion" in why:
        return "is nested too deeply"
    return f"is not JSON: {why}, at its character {error.pos + 1:,}"


def _kind_of(value: Any) -> str:
    names = {list: "a list", str: "a text", bool: "true or false", type(None): "null"}
    return names.get(type(value), "a number")


def _doubtful(lines: Sequence[bytes], rows: Sequence[Any], reasons: dict[int, str]) -> list[int]:
    """The lines that orjson may not have kept exactly."""
    whole = b"\n".join(lines)
    doubtful = set(lines_with_long_numbers(lines, whole))
    colons = whole.count(b'":')
    # Where all values are plain the objects have as many keys as there are colons behind a quote.
    if colons != sum(map(len, rows)) and colons != sum(map(_keys_in, rows)):
        doubtful |= {
            index
            for index, (line, row) in enumerate(zip(lines, rows, strict=True))
            if len(KEY.findall(line)) != _keys_in(row)
        }
    return sorted(doubtful - reasons.keys())


def _keys_in(value: Any) -> int:
    """How many keys an object has, with those of the objects in it."""
    if type(value) is dict:
        count = len(value)
        for one in value.values():
            if type(one) is dict or type(one) is list:
                count += _keys_in(one)
        return count
    if type(value) is list:
        return sum(_keys_in(one) for one in value if type(one) is dict or type(one) is list)
    return 0


def exact_row(line: bytes) -> dict[str, Any]:
    """The object of a line, its numbers exact: integers beyond 64 bits and long numbers are decimals."""
    try:
        row = json.loads(
            line,
            object_pairs_hook=_without_repeats,
            parse_int=_integer,
            parse_float=_number,
            parse_constant=_no_constant,
        )
    except RecursionError:
        raise NotARowError("is nested too deeply") from None
    except ValueError as error:
        raise NotARowError(f"is not JSON: {str(error).split(': line ')[0].lower()}") from None
    if type(row) is not dict:
        raise NotARowError(f"is not an object, but {_kind_of(row)}")
    if SURROGATE.search(line):
        try:
            dumped(row)
        except TypeError:
            raise NotARowError(LONE_SURROGATE) from None
    return row


def _without_repeats(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    out = dict(pairs)
    if len(out) != len(pairs):
        seen: set[str] = set()
        twice = next(key for key, _ in pairs if key in seen or seen.add(key))  # type: ignore[func-returns-value]
        raise NotARowError(f'has the key "{twice}" twice')
    return out


def _integer(digits: str) -> int | Decimal:
    if len(digits) > MOST_DIGITS:
        return Decimal(digits)
    number = int(digits)
    return number if LEAST <= number <= LARGEST else Decimal(digits)


def _number(digits: str) -> float | Decimal:
    try:
        exact = Decimal(digits)
    except InvalidOperation:
        raise NotARowError("has a number too large for any type") from None
    near = float(digits)
    return near if Decimal(repr(near)) == exact else exact


def _no_constant(word: str) -> None:
    raise NotARowError(f"is not JSON: {word} is not a number")


def dumped(value: Any) -> str:
    """A value as JSON, with exact numbers."""
    return orjson.dumps(value, default=_fragment).decode()


def _fragment(value: Any) -> Any:
    if isinstance(value, Decimal):
        return orjson.Fragment(str(value))
    raise TypeError
