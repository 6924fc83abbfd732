"""How much memory gathering steps may take."""

from __future__ import annotations

import os
import re

UNITS = {"": 1, "B": 1, "KB": 10**3, "MB": 10**6, "GB": 10**9, "KIB": 2**10, "MIB": 2**20, "GIB": 2**30}
LARGEST = 10.0**9
LEAST = 32 * 10**6
"""Less than this is not enough for the blocks that are under way."""


def half_of_the_machine() -> int:
    """Half of the memory that this machine has, in bytes."""
    try:
        return os.sysconf("SC_PHYS_PAGES") * os.sysconf("SC_PAGE_SIZE") // 2
    except (ValueError, OSError, AttributeError):
        return 2 * UNITS["GB"]


def bytes_of(text: str) -> int | None:
    """`500MB`, `2 GB`, `1GiB` in bytes; None where it is no such amount."""
    match = re.fullmatch(r"\s*(\d+(?:\.\d+)?)\s*([A-Za-z]*)\s*", text)
    if match is None or match.group(2).upper() not in UNITS:
        return None
    return int(min(float(match.group(1)), LARGEST) * UNITS[match.group(2).upper()])
