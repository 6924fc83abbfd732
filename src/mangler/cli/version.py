"""What `mangler --version` says."""

from __future__ import annotations

from mangler import __version__
from mangler.kernels import compiled


def version() -> str:
    """The version, and which kernels are in use: they give the same results, and take different times."""
    return f"mangler {__version__}, {compiled.in_use()} kernels\n"
