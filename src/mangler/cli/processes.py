"""`mangler run --workers N`: several extracts at once, each cleaned by one of N processes.

What comes out is the same as with one process. An extract is held against those before it of its series, so a process
that has read one asks for its turn before it looks at the history: it gets it when the extracts before are done with.
"""

from __future__ import annotations

import contextlib
import os
import signal
import threading
from collections import deque
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import Enum, auto
from multiprocessing import get_context, parent_process, resource_tracker
from multiprocessing.connection import Connection, wait
from pathlib import Path
from typing import Any

from mangler.cli import signals, streams
from mangler.cli.cleaning import Manner, Outcome, clean_one, refused, show_outcome
from mangler.cli.in_turn import passed_over
from mangler.cli.places import Place
from mangler.cli.progress import ProgressBar, size_of
from mangler.engine.memory import half_of_the_machine
from mangler.engine.pipeline import WORKERS
from mangler.engine.recipe import Recipe, Result
from mangler.history.recording import RecipeHistory, digest_of_extract
from mangler.insight.fingerprint import Fingerprint, series_of
from mangler.language.mistake import Refusal, file_trouble
from mangler.library import earlier

PATIENCE = 2.0
"""Seconds that a process has to take away what it has begun, once it is to end."""
GRACE = 1.0
"""Seconds after which it takes that away at once, whatever computes."""


@dataclass(frozen=True)
class Order:
    """What a process needs to know before the first extract."""

    recipe: Path
    loaded: Recipe
    """As it was read once: it may be a pipe."""
    history: Path | None
    """Where runs are noted; None where they are not."""
    manner: Manner


class Sign(Enum):
    """What a process tells: rows and bytes read so far; that it waits for its turn; what became of its extract."""

    PROGRESS = auto()
    TURN = auto()
    DONE = auto()


def shared_among(manner: Manner, workers: int) -> Manner:
    """Memory and threads of one of so many processes."""
    memory = (manner.options.memory or half_of_the_machine()) // workers
    threads = max(1, min(WORKERS, (os.cpu_count() or 1) // workers))
    return replace(manner, options=replace(manner.options, memory=memory, workers=threads))


def clean_at_once(
    order: Order, places: Sequence[Place], workers: int, past: RecipeHistory | None, only_new: bool
) -> list[Outcome]:
    """What became of each extract is shown in the order of the extracts."""
    queue = _Queue(places, past if only_new else None)
    outcomes: dict[int, Outcome] = {}
    progress: dict[int, tuple[int, int]] = {}
    total = [0, 0]
    """Rows and bytes of all extracts so far."""
    sizes = [size_of(place.extract) or 0 for place in places]
    shown = 0
    crew: list[_Worker] = []
    name = f"{len(places)} extracts"
    try:
        with contextlib.closing(ProgressBar(name, sum(sizes), not order.manner.silent)) as bar:
            while len(outcomes) < len(places):
                while sum(worker.at is not None for worker in crew) < workers:
                    if (at := queue.next(outcomes)) is None:
                        break
                    _idle(crew, order).begin(at, places[at])
                for worker in _speaking(crew):
                    at = worker.at
                    assert at is not None
                    sign, told = worker.hear()
                    if sign is Sign.PROGRESS:
                        before = progress.get(at, (0, 0))
                        progress[at] = told
                        total = [all_ + new - old for all_, new, old in zip(total, told, before, strict=True)]
                        bar(*total)
                    elif sign is Sign.TURN:
                        worker.waits = True
                    else:
                        outcomes[at] = told or refused(_killed(places[at]), places[at], None)
                        worker.at = None
                        if told is None:
                            crew.remove(worker)
                for worker in crew:
                    if worker.waits and worker.at is not None and queue.has_turn(worker.at, outcomes):
                        worker.go_on()
                while shown in outcomes:
                    bar.close()  # it would stand among the lines
                    show_outcome(outcomes[shown], places[shown].extract, order.manner)
                    shown += 1
    finally:
        for worker in crew:
            worker.ask_to_end()
        for worker in crew:
            worker.end()
    return [outcomes[at] for at in range(len(places))]


def _idle(crew: list[_Worker], order: Order) -> _Worker:
    """One that has nothing to do; a new one, if all have."""
    for worker in crew:
        if worker.at is None:
            return worker
    crew.append(_Worker(order))
    return crew[-1]


def _killed(place: Place) -> Refusal:
    return file_trouble(
        f"the process that cleaned {place.extract} was ended from outside",
        "Was there too little memory? Try fewer --workers, or less --memory.",
    )


class _Queue:
    """Which extract is next. One with the content of another waits for that, where only new content is wanted."""

    def __init__(self, places: Sequence[Place], past: RecipeHistory | None) -> None:
        self._places, self._past = places, past
        self._left = deque(range(len(places)))
        self._series = _Alike([series_of(place.extract) for place in places])
        self._contents = _Alike(
            [_content(place) if past is not None else str(at) for at, place in enumerate(places)]
        )

    def next(self, outcomes: dict[int, Outcome]) -> int | None:
        """Takes the next one; those that are passed over get their outcome."""
        waiting: list[int] = []
        found: int | None = None
        while self._left and found is None:
            at = self._left.popleft()
            if not self._contents.come_after(at, outcomes):
                waiting.append(at)
                continue
            outcome = passed_over(self._places[at], self._past)
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


def _content(place: Place) -> str:
    try:
        return digest_of_extract(place.extract)
    except OSError:
        return place.extract  # its run tells what is wrong with it


class _Worker:
    """A process as the one that started it sees it. `at` is the place of the extract that it works on."""

    def __init__(self, order: Order) -> None:
        context = get_context("spawn")  # a fork would take over threads of Arrow that are not there
        self._pipe, theirs = context.Pipe()
        self._process = context.Process(target=_work, args=(theirs, order), daemon=True)
        resource_tracker.ensure_running()  # it lets interrupts through where it starts by itself
        held = signal.pthread_sigmask(signal.SIG_BLOCK, {signal.SIGINT})
        try:
            self._process.start()  # holds them too, until it is ready to ignore them
        finally:
            signal.pthread_sigmask(signal.SIG_SETMASK, held)
        theirs.close()
        self.at: int | None = None
        self.waits = False

    @property
    def pipe(self) -> Any:
        return self._pipe

    def begin(self, at: int, place: Place) -> None:
        self.at, self.waits = at, False
        self._say(place)

    def go_on(self) -> None:
        self.waits = False
        self._say(None)

    def hear(self) -> tuple[Sign, Any]:
        """What it says; that it is done with nothing to tell where it is no more."""
        try:
            sign, told = self._pipe.recv()
        except (EOFError, OSError):
            return Sign.DONE, None
        return sign, told

    def ask_to_end(self) -> None:
        """Has it take away what it has begun, and end."""
        if self.at is None:
            self._pipe.close()  # it ends when nobody gives it anything to do any more
        else:
            self._process.terminate()

    def end(self) -> None:
        self._process.join(PATIENCE)
        self._process.kill()

    def _say(self, what: Place | None) -> None:
        with contextlib.suppress(OSError):  # where it is no more, that is heard next
            self._pipe.send(what)


def _speaking(crew: Sequence[_Worker]) -> list[_Worker]:
    """Waits until some of those who work have something to say."""
    busy = {worker.pipe: worker for worker in crew if worker.at is not None}
    return [busy[pipe] for pipe in wait(list(busy))] if busy else []


def _work(pipe: Connection[Any, Any], order: Order) -> None:
    """The process: cleans what it is given until nobody gives it anything."""
    from mangler.cli.memory import keep_freed_memory

    streams.prepare()
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # the one that started it is told, and ends it
    signals.listen(GRACE, says=False)
    signal.signal(signal.SIGTERM, _leave)
    signal.signal(
        signal.SIGHUP, signal.SIG_IGN
    )  # of a terminal that is closed the one that started it hears too
    threading.Thread(target=_end_with_parent, daemon=True).start()
    keep_freed_memory()
    trouble: Refusal | None = None
    try:
        past = RecipeHistory.open(order.history, order.recipe, order.loaded.digest) if order.history else None
    except Refusal as refusal:  # they were there when the command began
        trouble = refusal
    while True:
        try:
            place: Place = pipe.recv()
        except EOFError:
            return
        outcome = (
            refused(trouble, place, None)
            if trouble
            else _clean(order.loaded, place, order.manner, past, pipe)
        )
        pipe.send((Sign.DONE, outcome))


def _clean(
    recipe: Recipe, place: Place, manner: Manner, past: RecipeHistory | None, pipe: Connection[Any, Any]
) -> Outcome:
    def progress(rows: int, bytes_read: int) -> None:
        pipe.send((Sign.PROGRESS, (rows, bytes_read)))

    def before() -> list[Fingerprint]:
        pipe.send((Sign.TURN, None))
        pipe.recv()
        assert past is not None
        return earlier(past, place.extract)

    outcome = clean_one(recipe, place, manner, past, progress, before)
    if outcome.result is not None:  # without the rows: they stand in their files
        outcome.result = Result(outcome.result.summary, [], [], ())
    return outcome


def _leave(number: int, frame: Any) -> None:  # noqa: ARG001
    raise SystemExit(0)


def _end_with_parent() -> None:
    """Nobody would hear of what is done any more; what is half done is left as by a run that was killed."""
    parent = parent_process()
    assert parent is not None
    wait([parent.sentinel])
    os._exit(1)
