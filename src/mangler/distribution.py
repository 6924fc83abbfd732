"""What is installed here under the name of Mangler."""

from __future__ import annotations

from functools import cache
from importlib.metadata import version


@cache
def installed_version() -> str:
    """The version that is installed, as processes on other machines are asked for theirs."""
    return version("mangler")
