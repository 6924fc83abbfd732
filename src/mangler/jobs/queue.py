"""Which extract of a job is cleaned next, where several are cleaned at once."""

from __future__ import annotations

from collections import deque
from collections.abc import Sequence

from mangler.history.recording import RecipeHistory, digest_of_extract
from mangler.insight.fingerprint.fingerprint import series_of
from mangler.jobs.one_extract import skipped
from mangler.jobs.outcome import Outcome
from mangler.jobs.output_paths import OutputPaths


class ExtractQueue:
    """Which extract is next. One with the content of another waits for that, where only new content is wanted."""

    def __init__(self, all_paths: Sequence[OutputPaths], past: RecipeHistory | None) -> None:
        self._all_paths, self._past = all_paths, past
        self._left = deque(range(len(all_paths)))
        self._series = _Alike([series_of(paths.extract) for paths in all_paths])
        self._contents = _Alike(
            [_content(paths) if past is not None else str(at) for at, paths in enumerate(all_paths)]
        )

    def next(self, outcomes: dict[int, Outcome]) -> int | None:
        """Takes the next one; skipped extracts get their outcome."""
        waiting: list[int] = []
        found: int | None = None
        while self._left and found is None:
            at = self._left.popleft()
            if not self._contents.come_after(at, outcomes):
                waiting.append(at)
                continue
            outcome = skipped(self._all_paths[at], self._past)
            if outcome is None:
                found = at
            else:
                outcomes[at] = outcome
        self._left.extendleft(reversed(waiting))
        return found

    def has_turn(self, at: int, outcomes: dict[int, Outcome]) -> bool:
        """Whether all extracts of its series that come before it are done with."""
        return self._series.come_after(at, outcomes)


class _Alike:
    """Which of those with the same mark are done with, looked at once each."""

    def __init__(self, marks: Sequence[str]) -> None:
        self._marks = marks
        self._open: dict[str, deque[int]] = {}
        for at, mark in enumerate(marks):
            self._open.setdefault(mark, deque()).append(at)

    def come_after(self, at: int, outcomes: dict[int, Outcome]) -> bool:
        """Whether all of its mark that come before it are done with."""
        before = self._open[self._marks[at]]
        while before and before[0] in outcomes:
            before.popleft()
        return not before or before[0] >= at


def _content(paths: OutputPaths) -> str:
    try:
        return digest_of_extract(paths.extract)
    except OSError:
        return paths.extract  # its run says what is wrong with it
