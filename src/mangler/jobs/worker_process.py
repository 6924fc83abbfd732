"""One of several processes that clean extracts, and the one that started it as they see each other."""

from __future__ import annotations

import contextlib
import signal
import threading
from collections.abc import Callable, Sequence
from enum import Enum, auto
from multiprocessing import get_context, resource_tracker
from multiprocessing.connection import Connection, wait
from pathlib import Path
from typing import Any

from mangler.engine.run.linked_recipe import LinkedRecipe, Result
from mangler.freed_memory import keep_freed_memory
from mangler.history.recording import RecipeHistory
from mangler.insight.fingerprint.fingerprint import Fingerprint
from mangler.jobs.one_extract import clean_one, refused
from mangler.jobs.outcome import JobSettings, Outcome
from mangler.jobs.output_paths import OutputPaths
from mangler.language.mistake import Refusal
from mangler.late_dataclass import dataclass
from mangler.library import earlier
from mangler.workforces.processes import end_with_parent

PATIENCE = 2.0
"""Seconds that a process has to take away what it has begun, once it is to end."""


@dataclass(frozen=True)
class WorkerSetup:
    """What a process needs to know before the first extract."""

    recipe: Path
    loaded: LinkedRecipe
    """As it was read once: it may be a pipe."""
    history: Path | None
    """Where runs are noted; None where they are not."""
    settings: JobSettings
    prepare: Callable[[], None] | None = None
    """Called first in each process: sets up its streams and signals."""


class Sign(Enum):
    """What a process tells: rows and bytes read so far; that it waits for its turn; what happened to its extract."""

    PROGRESS = auto()
    TURN = auto()
    DONE = auto()


class WorkerProcess:
    """A process as the one that started it sees it. `at` is the place of the extract that it works on."""

    def __init__(self, setup: WorkerSetup) -> None:
        context = get_context("spawn")  # a fork would take over threads of Arrow that are not there
        self._pipe, theirs = context.Pipe()
        self._process = context.Process(target=_work, args=(theirs, setup), daemon=True)
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

    def begin(self, at: int, paths: OutputPaths) -> None:
        self.at, self.waits = at, False
        self._say(paths)

    def go_on(self) -> None:
        self.waits = False
        self._say(None)

    def hear(self) -> tuple[Sign, Any]:
        """What it says; that it is done with nothing to tell where it is no more."""
        try:
            sign, message = self._pipe.recv()
        except (EOFError, OSError):
            return Sign.DONE, None
        return sign, message

    def ask_to_end(self) -> None:
        """Has it take away what it has begun, and end."""
        if self.at is None:
            self._pipe.close()  # it ends when nobody gives it anything to do any more
        else:
            self._process.terminate()

    def end(self) -> None:
        self._process.join(PATIENCE)
        self._process.kill()

    def _say(self, what: OutputPaths | None) -> None:
        with contextlib.suppress(OSError):  # where it is no more, that is heard next
            self._pipe.send(what)


def speaking(workers: Sequence[WorkerProcess]) -> list[WorkerProcess]:
    """Waits until some of those who work have something to say."""
    busy = {worker.pipe: worker for worker in workers if worker.at is not None}
    return [busy[pipe] for pipe in wait(list(busy))] if busy else []


def _work(pipe: Connection[Any, Any], setup: WorkerSetup) -> None:
    """The process: cleans what it is given until nobody gives it anything."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # the process that started it hears of it, and ends it
    if setup.prepare is not None:
        setup.prepare()
    signal.signal(signal.SIGTERM, _leave)
    signal.signal(
        signal.SIGHUP, signal.SIG_IGN
    )  # of a terminal that is closed the one that started it hears too
    threading.Thread(target=end_with_parent, daemon=True).start()
    keep_freed_memory()
    trouble: Refusal | None = None
    try:
        past = RecipeHistory.open(setup.history, setup.recipe, setup.loaded.digest) if setup.history else None
    except Refusal as refusal:  # they were there when the command began
        trouble = refusal
    while True:
        try:
            paths: OutputPaths = pipe.recv()
        except EOFError:
            return
        outcome = (
            refused(trouble, paths, None)
            if trouble
            else _clean(setup.loaded, paths, setup.settings, past, pipe)
        )
        pipe.send((Sign.DONE, outcome))


def _clean(
    recipe: LinkedRecipe,
    paths: OutputPaths,
    settings: JobSettings,
    past: RecipeHistory | None,
    pipe: Connection[Any, Any],
) -> Outcome:
    def progress(rows: int, bytes_read: int) -> None:
        pipe.send((Sign.PROGRESS, (rows, bytes_read)))

    def before() -> list[Fingerprint]:
        pipe.send((Sign.TURN, None))
        pipe.recv()
        assert past is not None
        return earlier(past, paths.extract)

    outcome = clean_one(recipe, paths, settings, past, progress, before)
    if outcome.result is not None:  # without the rows: they are in their files
        outcome.result = Result(outcome.result.summary, [], [], ())
    return outcome


def _leave(number: int, frame: Any) -> None:  # noqa: ARG001
    raise SystemExit(0)
