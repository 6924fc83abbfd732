"""The extracts of a job several at once, each by a thread that lets a workforce do the work.

What comes out is the same as one by one. An extract is compared with those before it of its series, so a thread that
has read one waits for its turn before it looks at the history.
"""

from __future__ import annotations

import threading
from collections.abc import Sequence
from dataclasses import field
from queue import SimpleQueue
from typing import Any

from mangler.history.recording import RecipeHistory
from mangler.insight.fingerprint.fingerprint import Fingerprint
from mangler.jobs.events import Finished, OnEvent, Progress, Started, size_of
from mangler.jobs.job_parts import JobParts
from mangler.jobs.one_extract import clean_one, refused
from mangler.jobs.outcome import Outcome
from mangler.jobs.queue import ExtractQueue
from mangler.language.mistake import Refusal, file_trouble
from mangler.late_dataclass import dataclass
from mangler.library import earlier

MOST = 16
"""Threads: each holds an opened extract."""


@dataclass
class _Desk:
    """Where the threads and the one that started them leave what they have for each other."""

    to_do: SimpleQueue[int | None] = field(default_factory=SimpleQueue)
    said: SimpleQueue[tuple[int, str, Any]] = field(default_factory=SimpleQueue)
    turns: dict[int, threading.Event] = field(default_factory=dict)
    closed: bool = False


def clean_several_on_workforce(parts: JobParts, threads: int, on_event: OnEvent) -> list[Outcome]:
    """What happened to each extract, in their order."""
    desk, count = _Desk(), min(MOST, threads, len(parts.all_paths))
    for _ in range(count):
        threading.Thread(target=_work, args=(desk, parts), daemon=True).start()
    queue = ExtractQueue(parts.all_paths, parts.past if parts.only_new else None)
    outcomes: dict[int, Outcome] = {}
    working, finished, waiting = 0, 0, set[int]()
    try:
        while len(outcomes) < len(parts.all_paths):
            while working < count and (at := queue.next(outcomes)) is not None:
                extract = parts.all_paths[at].extract
                on_event(Started(extract, size_of(extract)))
                desk.turns[at] = threading.Event()
                desk.to_do.put(at)
                working += 1
            if working:
                working -= _listen(desk, parts, outcomes, waiting, on_event)
            for at in [at for at in waiting if queue.has_turn(at, outcomes)]:
                waiting.discard(at)
                desk.turns[at].set()
            while finished in outcomes:
                on_event(Finished(parts.all_paths[finished].extract, outcomes[finished]))
                finished += 1
    finally:
        desk.closed = True
        for turn in desk.turns.values():
            turn.set()
        for _ in range(count):
            desk.to_do.put(None)
    return [outcomes[at] for at in range(len(parts.all_paths))]


def _listen(
    desk: _Desk, parts: JobParts, outcomes: dict[int, Outcome], waiting: set[int], on_event: OnEvent
) -> bool:
    """Takes on what a thread says about its extract; whether it is done with it."""
    at, sign, what = desk.said.get()
    if sign == "progress":
        on_event(Progress(parts.all_paths[at].extract, *what))
    elif sign == "turn":
        waiting.add(at)
    elif isinstance(what, BaseException):
        raise what
    else:
        outcomes[at] = what
        return True
    return False


def _work(desk: _Desk, parts: JobParts) -> None:
    """A thread: cleans what it is given. It notes runs over a connection of its own."""
    past: RecipeHistory | None = None
    trouble: Refusal | None = None
    if parts.past is not None:
        try:
            past = RecipeHistory.open(parts.past.history.path, parts.path, parts.recipe.digest)
        except Refusal as refusal:
            trouble = refusal
    while (at := desk.to_do.get()) is not None:
        try:
            paths = parts.all_paths[at]
            what: Any = refused(trouble, paths, None) if trouble else _clean(desk, parts, at, past)
        except BaseException as error:
            what = error
        desk.said.put((at, "done", what))
    if past is not None:
        past.history.close()


def _clean(desk: _Desk, parts: JobParts, at: int, past: RecipeHistory | None) -> Outcome:
    paths = parts.all_paths[at]

    def progress(rows: int, bytes_read: int) -> None:
        desk.said.put((at, "progress", (rows, bytes_read)))

    def before() -> Sequence[Fingerprint]:
        desk.said.put((at, "turn", None))
        desk.turns[at].wait()
        if desk.closed:
            raise file_trouble("process-ended", f"the run ended before {paths.extract} was delivered")
        assert past is not None
        return earlier(past, paths.extract)

    return clean_one(parts.recipe, paths, parts.settings, past, progress, before)
