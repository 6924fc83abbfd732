"""Fingerprints of weeks, ordinary and altered, and whether a change was found."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from random import Random

import numpy as np
import pyarrow as pa
from tests.insight.drift.planted import Planted
from tests.insight.drift.processes import Process, Table

from mangler.insight.fingerprint.change import Drift
from mangler.insight.fingerprint.fingerprint import Fingerprint
from mangler.insight.fingerprint.fingerprint_taking import FingerprintTaker
from mangler.table.batch import Batch, NoOrigin
from mangler.table.schema import Schema

FILE = {"delimiter": ";", "encoding": "UTF-8", "quoting": "where needed"}


def taken(table: Table, details: Mapping[str, str] = FILE) -> Fingerprint:
    """The fingerprint of a week."""
    taker = FingerprintTaker()
    taker.begin(Schema.of_text(table), details)
    columns = tuple(pa.array(cells, pa.string()) for cells in table.values())
    rows = np.arange(1, len(columns[0]) + 1, dtype=np.int64)
    taker.collect(taker.observe(Batch(columns, rows, NoOrigin())))
    taker.end()
    assert taker.fingerprint is not None
    return taken_down(taker.fingerprint)


def taken_down(fingerprint: Fingerprint) -> Fingerprint:
    """As a history gives it back."""
    return Fingerprint.of_json(fingerprint.to_json())


def planted_week(process: Process, week: int, rows: int, planted: Planted) -> Fingerprint:
    table = process.week(week, rows)
    changed = planted.change(table, process, Random(f"{process.name} {planted.name} {rows}"))
    return taken(changed if changed is not None else table, {**FILE, **planted.details})


def is_found(found: Sequence[Drift], planted: Planted, process: Process) -> bool:
    """Whether the change is the one finding, with the right cause."""
    causes = planted.cause if isinstance(planted.cause, tuple) else (planted.cause,)
    if len(found) != 1 or found[0].change not in causes:
        return False
    column = planted.column(process)
    return not column or column in found[0].columns
