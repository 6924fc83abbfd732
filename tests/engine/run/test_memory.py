"""Amounts of memory as people write them."""

from __future__ import annotations

import pytest

from mangler.engine.run.memory import bytes_of, half_of_the_machine


@pytest.mark.parametrize(
    ("text", "size"),
    [
        ("500MB", 500_000_000),
        ("2 GB", 2_000_000_000),
        ("1.5gib", 3 << 29),
        ("64", 64),
        ("7b", 7),
        ("MB", None),
        ("-1MB", None),
        ("1XB", None),
        ("", None),
    ],
)
def test_amounts_of_memory(text: str, size: int | None) -> None:
    assert bytes_of(text) == size


def test_half_of_the_machine_is_some() -> None:
    assert half_of_the_machine() > 1 << 28
