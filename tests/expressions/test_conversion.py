from __future__ import annotations

import datetime
from decimal import Decimal
from itertools import product
from typing import Any

import numpy as np
import pyarrow as pa
import pytest

from mangler.expressions.conversion import converter, shortened
from mangler.table.schema import ValueType
from mangler.table.types import ARROW

SAMPLES: dict[ValueType, list[Any]] = {
    ValueType.TEXT: ["7", None],
    ValueType.INTEGER: [7, None],
    ValueType.FLOAT: [7.0, None],
    ValueType.DECIMAL: [Decimal(7), None],
    ValueType.BOOLEAN: [True, None],
    ValueType.DATE: [datetime.date(2026, 5, 4), None],
    ValueType.TIME: [datetime.time(9, 30), None],
    ValueType.TIMESTAMP: [datetime.datetime(2026, 5, 4, 9, 30), None],
}
N, M = ValueType.INTEGER, ValueType.TIMESTAMP
WAYS = {
    *product((N, ValueType.FLOAT, ValueType.DECIMAL), repeat=2),
    (M, ValueType.DATE),
    (M, ValueType.TIME),
    (ValueType.DATE, M),
}


@pytest.mark.parametrize(("source", "kind"), list(product(SAMPLES, SAMPLES)))
def test_every_pair_of_types(source: ValueType, kind: ValueType) -> None:
    """There is a way to text and from it, among numbers, and among dates; a way that is there keeps nulls."""
    work = converter(source, kind)
    expected = ValueType.TEXT in (source, kind) or (source, kind) in WAYS
    assert (work is not None) == expected or source is kind
    if work is None:
        return
    done = work(pa.array(SAMPLES[source], ARROW[source]))
    assert done.array.type == ARROW[kind]
    assert done.array[1].as_py() is None and not done.failed[1]


@pytest.mark.parametrize("kind", [ValueType.INTEGER, ValueType.FLOAT, ValueType.DECIMAL])
def test_numbers_without_a_fraction_go_all_ways(kind: ValueType) -> None:
    for source in (ValueType.INTEGER, ValueType.FLOAT, ValueType.DECIMAL):
        work = converter(source, kind)
        assert work is not None
        if source is not kind:
            assert work(pa.array(SAMPLES[source], ARROW[source])).array.to_pylist() == SAMPLES[kind]


def test_nothing_is_rounded_silently() -> None:
    for source, value in (
        (ValueType.FLOAT, 7.5),
        (ValueType.DECIMAL, Decimal("7.5")),
        (ValueType.FLOAT, 1e30),
    ):
        work = converter(source, ValueType.INTEGER)
        assert work is not None
        done = work(pa.array([value], ARROW[source]))
        assert done.failed.tolist() == [True] and done.array[0].as_py() is None
    work = converter(ValueType.FLOAT, ValueType.DECIMAL)
    assert work is not None
    done = work(pa.array([0.1, 1e-12, 1e20], pa.float64()))
    assert done.failed.tolist() == [False, True, True] and done.array[0].as_py() == Decimal("0.1")


def test_of_null_comes_null_of_the_type() -> None:
    for kind in SAMPLES:
        work = converter(None, kind)
        assert work is not None
        done = work(pa.nulls(2))
        assert done.array.type == ARROW[kind] and done.array.null_count == 2 and not np.any(done.failed)


def test_long_values_are_shortened_in_the_middle() -> None:
    assert shortened("x" * 24) == "x" * 24
    assert shortened("a" * 20 + "b" * 20) == "a" * 14 + "…" + "b" * 8
