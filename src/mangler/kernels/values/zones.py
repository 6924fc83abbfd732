"""Local times as moments in a zone, and moments with an offset of their own."""

from __future__ import annotations

from functools import cache
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from mangler.kernels.arrow import from_numpy
from mangler.kernels.text.patterns import flags_of, matches
from mangler.kernels.text.text_view import TextArray
from mangler.kernels.text.white_space import trim
from mangler.kernels.values.convert import Converted

OFFSET = r"(?P<local>.*[0-9])[ ]*(?P<offset>Z|[+-][0-9]{2}:?[0-9]{2})$"
MINUTE = 60_000_000
"""Microseconds."""


@cache
def is_zone(name: str) -> bool:
    """Whether the system's database of zones has this one, or it is an offset such as +02:00."""
    try:
        pc.assume_timezone(pa.array([0], pa.timestamp("us")), name)
    except pa.ArrowInvalid:
        return False
    return True


def without_offsets(array: TextArray) -> tuple[TextArray, Any]:
    """The texts without an offset at their end, and the offset of each in minutes; null where there is none."""
    texts = trim(array).array
    if not matches(texts, r"[0-9][ ]*(Z|[+-][0-9]{2}:?[0-9]{2})$").any():
        return texts, pa.nulls(len(texts), pa.int64())
    # A date such as 2026-05-04 ends like an offset: only what follows a time is one.
    timed = matches(texts, r":[0-9]{2}(\.[0-9]+)?[ ]*(Z|[+-][0-9]{2}:?[0-9]{2})$")
    found = pc.extract_regex(pc.if_else(from_numpy(timed), texts, None), pattern=OFFSET)
    spelled = pc.struct_field(found, "offset")
    digits = pc.replace_substring_regex(spelled, pattern="[^0-9]", replacement="")
    number = pc.fill_null(pc.cast(pc.if_else(pc.equal(digits, ""), "0", digits), pa.int64()), 0)
    hundreds = np.asarray(number)
    minutes = hundreds // 100 * 60 + hundreds % 100
    minutes = np.where(flags_of(pc.starts_with(spelled, "-")), -minutes, minutes)
    there = flags_of(found.is_valid())
    return pc.if_else(from_numpy(there), pc.struct_field(found, "local"), texts), pa.array(
        minutes, mask=~there
    )


def on_clock(local: Any, zone: str) -> Converted:
    """Local times as moments by the zone's clock; a time that it leaves out, or shows twice, fails."""
    first, last = (
        pc.assume_timezone(local, zone, ambiguous=which, nonexistent=which)
        for which in ("earliest", "latest")
    )
    failed = flags_of(pc.not_equal(first, last))
    return Converted(pc.if_else(from_numpy(failed), None, first) if failed.any() else first, failed)


def in_zone(local: Any, offsets: Any, zone: str) -> Converted:
    """Local times as moments: by their own offset where they have one, else by the zone's clock.

    A time that the zone's clock leaves out, or shows twice, fails.
    """
    target = pa.timestamp("us", zone)
    own = flags_of(offsets.is_valid())
    here = pc.if_else(from_numpy(own), None, local)
    by_clock = on_clock(here, zone)
    if not own.any():
        return by_clock
    shifted = pc.subtract(pc.cast(local, pa.int64()), pc.multiply(offsets, MINUTE))
    by_offset = pc.cast(pc.cast(shifted, pa.timestamp("us", "UTC")), target)
    return Converted(pc.if_else(from_numpy(own), by_offset, by_clock.array), by_clock.failed)
