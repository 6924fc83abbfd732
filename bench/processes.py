"""Runs whole processes in turn and measures each: seconds on the clock, processor seconds, peak memory."""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import time
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

DATA = Path(__file__).parent / "data"
AS_INSTALLED = {name: value for name, value in os.environ.items() if name != "PYTHONDONTWRITEBYTECODE"}
"""The compiled modules are kept, as pip keeps them when it installs; without them each start costs half a second."""


@dataclass(frozen=True)
class Measure:
    """Medians over the rounds; memory is the largest resident size in bytes."""

    seconds: float
    processor: float
    memory: int


def measure(commands: Mapping[str, Sequence[str]], rounds: int) -> dict[str, Measure]:
    """Every command once a round, one after the other, so that all see the same machine."""
    seen: dict[str, list[Measure]] = {name: [] for name in commands}
    for _ in range(rounds):
        for name, command in commands.items():
            seen[name].append(run(command))
    return {
        name: Measure(
            statistics.median(one.seconds for one in all_),
            statistics.median(one.processor for one in all_),
            max(one.memory for one in all_),
        )
        for name, all_ in seen.items()
    }


def run(command: Sequence[str]) -> Measure:
    started = time.perf_counter()
    child = subprocess.Popen(command, stdout=subprocess.DEVNULL, env=AS_INSTALLED)
    _, status, usage = os.wait4(child.pid, 0)
    seconds = time.perf_counter() - started
    if status:
        sys.exit(f"{' '.join(command)} ended with status {status}")
    return Measure(seconds, usage.ru_utime + usage.ru_stime, usage.ru_maxrss * 1024)


def program(name: str) -> str:
    """A program that is installed beside this Python."""
    return str(Path(sys.executable).with_name(name))
