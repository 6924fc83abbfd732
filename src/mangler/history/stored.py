"""What is stored in a history, read with care: it may be damaged, of another version, or made to do harm."""

from __future__ import annotations

import json
import os
from collections.abc import Mapping
from typing import Any, NoReturn

LARGEST = 2**53
"""Counts beyond this are no counts of ours."""
TEXT, NUMBER, COUNT = "text", "number", "count"


class Optional:
    """A value of this shape, or none."""

    def __init__(self, shape: Any) -> None:
        self.shape = shape


class Each:
    """Any keys, with values of this shape."""

    def __init__(self, shape: Any) -> None:
        self.shape = shape


STEP = {
    "line": Optional(COUNT),
    "step": TEXT,
    "seconds": NUMBER,
    "remarks": [TEXT],
    "facts": [TEXT],
    "file": Optional(TEXT),
    "rows_in": COUNT,
    "rows_out": COUNT,
    "cells_changed": COUNT,
    "nulls_made": COUNT,
    "nulls_filled": COUNT,
}
BALANCE = dict.fromkeys(("read", "added", "delivered", "dropped", "merged", "withdrawn", "set_aside"), COUNT)
WRITING = {"line": COUNT, "step": TEXT, "seconds": NUMBER}
DELIVERED = {
    "output": Optional(TEXT),
    "aside": Optional(TEXT),
    "title": TEXT,
    "found_out": Each(TEXT),
    "columns": [TEXT],
    "steps": [STEP],
    "balance": BALANCE,
    "set_aside_first": [{"row": COUNT, "line": COUNT, "step": TEXT, "reason": TEXT}],
    "warnings": [TEXT],
    "seconds": NUMBER,
}
"""The account of an extract that was delivered."""
NULLS = {"read": Each(COUNT), "delivered": Each(COUNT)}
REASONS = [{"step": TEXT, "reason": Optional(TEXT), "rows": COUNT}]
"""What runs of earlier versions did not note."""
REFUSED = {"mistakes": Optional([{"message": TEXT, "advice": Optional(TEXT), "line": Optional(COUNT)}])}
"""The account of one that was refused, or that ended before its output was in its place."""
FINGERPRINT = {
    "delimiter": TEXT,
    "encoding": TEXT,
    "rows": COUNT,
    "columns": [
        {
            "name": TEXT,
            "cells": COUNT,
            "nulls": COUNT,
            "values": Optional(Each(COUNT)),
            "written": Each(COUNT),
            "parts": Each(Each(COUNT)),
            "least": Optional(NUMBER),
            "most": Optional(NUMBER),
        }
    ],
}


def object_of(stored: Any) -> dict[str, Any]:
    """The object that a column holds as JSON; an empty one where it holds anything else."""
    if not isinstance(stored, str):
        return {}
    try:
        found = json.loads(stored, parse_constant=_refuse)
    except (ValueError, RecursionError):
        return {}
    return found if isinstance(found, dict) else {}


def _refuse(constant: str) -> NoReturn:
    raise ValueError(f"{constant} is no JSON")


def has_shape(value: Any, shape: Any) -> bool:
    """Whether a value is as the shape says; an object may have more keys."""
    if isinstance(shape, Optional):
        return value is None or has_shape(value, shape.shape)
    if isinstance(shape, Each):
        return isinstance(value, dict) and all(has_shape(one, shape.shape) for one in value.values())
    if isinstance(shape, list):
        return isinstance(value, list) and all(has_shape(one, shape[0]) for one in value)
    if isinstance(shape, Mapping):
        return isinstance(value, dict) and all(has_shape(value.get(key), one) for key, one in shape.items())
    if shape == TEXT:
        return isinstance(value, str)
    is_count = isinstance(value, int) and not isinstance(value, bool) and 0 <= value <= LARGEST
    return is_count or (shape == NUMBER and isinstance(value, float))


def is_fingerprint(value: Any) -> bool:
    """Whether a value can be compared with the fingerprint of an extract."""
    if not has_shape(value, FINGERPRINT):
        return False
    for column in value["columns"]:
        ends = (column.get("shortest"), column.get("longest"))
        numbers = [key for counts in column["parts"].values() for key in counts]
        if not all(has_shape(one, Optional(COUNT)) for one in ends) or column["nulls"] > column["cells"]:
            return False
        if not all(key.isdecimal() and len(key) < 16 for key in numbers):
            return False
    return True


def text_of(stored: Any) -> str:
    """The text that a column holds; what it should not hold as it can be shown."""
    if isinstance(stored, bytes):
        return stored.decode("utf-8", "backslashreplace")
    return stored if isinstance(stored, str) else "" if stored is None else str(stored)


def path_of(stored: Any) -> str | None:
    """The path that a column holds: bytes where it is not UTF-8."""
    if isinstance(stored, bytes):
        stored = os.fsdecode(stored)
    return stored if isinstance(stored, str) and stored and "\0" not in stored else None


def as_stored(path: str | None) -> str | bytes | None:
    """A path as a column can hold it."""
    if path is None:
        return None
    try:
        path.encode()
    except UnicodeEncodeError:
        return os.fsencode(path)
    return path
