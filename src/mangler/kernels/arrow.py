"""Arrow's border: pyarrow ships no types, so its objects have names of ours here."""

from __future__ import annotations

from typing import Any, TypeAlias

ColumnArray: TypeAlias = Any
"""A pyarrow array: the cells of a column, of any type."""
ArrowType: TypeAlias = Any
"""A pyarrow data type."""
Scalar: TypeAlias = Any
"""A pyarrow scalar, or a value of a cell in Python's types."""
