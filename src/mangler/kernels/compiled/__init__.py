"""Kernels in machine code, where they were built: `records`, and others beside it, each a module or None.

They are used where they are there. `MANGLER_KERNELS=numpy` chooses the NumPy kernels, which do the same and are the
measure of what is right. A caller asks each time (`compiled.records is not None`), so that tests can choose too.
"""

from __future__ import annotations

import importlib
import os
import sys
from types import ModuleType

CHOICE = "MANGLER_KERNELS"
NUMPY, COMPILED = "numpy", "compiled"
"""What the variable may be; without it the compiled kernels are used where they are."""


def _load(name: str) -> ModuleType | None:
    """Places in words are counted from the lowest byte: other machines use NumPy."""
    if os.environ.get(CHOICE) == NUMPY or sys.byteorder != "little":
        return None
    try:
        return importlib.import_module(f"{__name__}.{name}")
    except ImportError:
        return None


forms = _load("forms")
lines = _load("lines")
looks = _load("looks")
records = _load("records")
rows = _load("rows")
seen = _load("seen")
spaces = _load("spaces")
spelled = _load("spelled")
sums = _load("sums")
texts = _load("texts")
MODULES = ("forms", "lines", "looks", "records", "rows", "seen", "spaces", "spelled", "sums", "texts")


def in_use() -> str:
    """Which kernels are in use, as `mangler --version` says it."""
    return NUMPY if records is None else COMPILED


def trouble() -> tuple[str, str] | None:
    """Why what the variable asks for cannot be had, and a way out."""
    asked = os.environ.get(CHOICE, "")
    if asked not in ("", NUMPY, COMPILED):
        return (
            f'{CHOICE} is "{asked}"',
            f"It can be {NUMPY} or {COMPILED}; without it the faster ones are used.",
        )
    if asked == COMPILED and in_use() == NUMPY:
        return (
            f"{CHOICE} asks for compiled kernels, and there are none here",
            "Install a C compiler and install Mangler anew, or unset it: the results are the same.",
        )
    return None
