"""A progress bar for long work, on a terminal only."""

from __future__ import annotations

import sys
from typing import Any


class ProgressBar:
    """Shows rows, share of bytes, rate and time left. It comes up with the second report: short work has none."""

    def __init__(self, name: str, size: int | None, wanted: bool) -> None:
        self._name, self._size = name, size
        self._wanted = wanted and sys.stderr.isatty()
        self._bar: Any = None
        self._task: Any = None
        self._reports = 0

    def __call__(self, rows: int, bytes_read: int) -> None:
        self._reports += 1
        if not self._wanted or self._reports < 2:
            return
        if self._bar is None:
            self._start()
        self._bar.update(self._task, completed=bytes_read, rows=f"{rows:,} rows")

    def close(self) -> None:
        """Takes the bar off the screen; another report brings it up again."""
        if self._bar is not None:
            self._bar.stop()
            self._bar = None

    def _start(self) -> None:
        from rich.progress import (
            BarColumn,
            Progress,
            TaskProgressColumn,
            TextColumn,
            TimeRemainingColumn,
            TransferSpeedColumn,
        )

        from mangler.cli.screen import error_console

        self._bar = Progress(
            TextColumn("{task.description}"),
            BarColumn(complete_style="dim", finished_style="dim", pulse_style="dim"),
            TaskProgressColumn(),
            TextColumn("{task.fields[rows]}"),
            TransferSpeedColumn(),
            TimeRemainingColumn(),
            console=error_console(),
            transient=True,
        )
        self._task = self._bar.add_task(self._name, total=self._size, rows="")
        self._bar.start()
