"""The extracts of a job several at once, each cleaned by one of some processes.

What comes out is the same as with one process. An extract is compared with those before it of its series, so a process
that has read one asks for its turn before it looks at the history: it gets it when the extracts before are done.
"""

from __future__ import annotations

import os
from collections.abc import Sequence
from dataclasses import replace

from mangler.engine.run.memory import half_of_the_machine
from mangler.history.recording import RecipeHistory
from mangler.jobs.events import Finished, OnEvent, Progress, Started, size_of
from mangler.jobs.one_extract import refused
from mangler.jobs.outcome import JobSettings, Outcome
from mangler.jobs.output_paths import OutputPaths
from mangler.jobs.queue import ExtractQueue
from mangler.jobs.worker_process import Sign, WorkerProcess, WorkerSetup, speaking
from mangler.language.mistake import Refusal, file_trouble
from mangler.table.in_order import WORKERS


def shared_among(settings: JobSettings, workers: int) -> JobSettings:
    """Memory and threads of one of so many processes."""
    memory = (settings.options.memory or half_of_the_machine()) // workers
    threads = max(1, min(WORKERS, (os.cpu_count() or 1) // workers))
    return replace(settings, options=replace(settings.options, memory=memory, workers=threads))


def clean_several_at_once(
    setup: WorkerSetup,
    all_paths: Sequence[OutputPaths],
    count: int,
    past: RecipeHistory | None,
    only_new: bool,
    on_event: OnEvent,
) -> list[Outcome]:
    """What happened to each extract, in their order; so many processes work."""
    queue = ExtractQueue(all_paths, past if only_new else None)
    outcomes: dict[int, Outcome] = {}
    finished = 0
    workers: list[WorkerProcess] = []
    try:
        while len(outcomes) < len(all_paths):
            _give_work(workers, count, setup, queue, all_paths, outcomes, on_event)
            for worker in speaking(workers):
                _listen(worker, workers, all_paths, outcomes, on_event)
            for worker in workers:
                if worker.waits and worker.at is not None and queue.has_turn(worker.at, outcomes):
                    worker.go_on()
            while finished in outcomes:
                on_event(Finished(all_paths[finished].extract, outcomes[finished]))
                finished += 1
    finally:
        for worker in workers:
            worker.ask_to_end()
        for worker in workers:
            worker.end()
    return [outcomes[at] for at in range(len(all_paths))]


def _give_work(
    workers: list[WorkerProcess],
    count: int,
    setup: WorkerSetup,
    queue: ExtractQueue,
    all_paths: Sequence[OutputPaths],
    outcomes: dict[int, Outcome],
    on_event: OnEvent,
) -> None:
    """Extracts for idle processes, as long as there are some."""
    while sum(worker.at is not None for worker in workers) < count:
        if (at := queue.next(outcomes)) is None:
            return
        on_event(Started(all_paths[at].extract, size_of(all_paths[at].extract)))
        _idle(workers, setup).begin(at, all_paths[at])


def _listen(
    worker: WorkerProcess,
    workers: list[WorkerProcess],
    all_paths: Sequence[OutputPaths],
    outcomes: dict[int, Outcome],
    on_event: OnEvent,
) -> None:
    """Takes on what a process says about its extract."""
    at = worker.at
    assert at is not None
    sign, said = worker.hear()
    if sign is Sign.PROGRESS:
        on_event(Progress(all_paths[at].extract, *said))
    elif sign is Sign.TURN:
        worker.waits = True
    else:
        outcomes[at] = said or refused(_killed(all_paths[at]), all_paths[at], None)
        worker.at = None
        if said is None:
            workers.remove(worker)


def _idle(workers: list[WorkerProcess], setup: WorkerSetup) -> WorkerProcess:
    """One that has nothing to do; a new one if all have."""
    for worker in workers:
        if worker.at is None:
            return worker
    workers.append(WorkerProcess(setup))
    return workers[-1]


def _killed(paths: OutputPaths) -> Refusal:
    return file_trouble(
        "process-ended",
        f"the process that cleaned {paths.extract} was ended from outside",
        "Was there too little memory? Try fewer --workers, or less --memory.",
    )
