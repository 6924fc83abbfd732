"""`python -m bench.cluster [--rows N] [--rounds N]`: a large extract over worker processes on this machine.

The same recipes by the plain run, and over a cluster of one worker with as many threads, of one, two, three and four
workers with one thread each. Rows per second, bytes that came back from the workers, and what a piece costs the
coordinator besides.
"""

from __future__ import annotations

import argparse
import contextlib
import pickle
from collections.abc import Iterator
from pathlib import Path
from statistics import median
from time import perf_counter, process_time
from typing import Any

from bench.firings import firings
from bench.processes import DATA
from mangler.freed_memory import keep_freed_memory

RECIPES = {
    "rows": "mangler 1\ntrim * squeeze\nreplace 'Temoku' with 'tenmoku' in glaze anycase\n",
    "group": "mangler 1\ntrim *\ngroup by kiln with n = count(), m = max(glaze)\n",
    "sort": "mangler 1\ntrim *\nsort by glaze, kiln descending\n",
}


EVERY = 6
"""Of so many outcomes one is measured for its bytes."""


class Measured:
    """A workforce that measures what goes through it."""

    def __init__(self, cluster: Any) -> None:
        self._cluster = cluster
        self.items, self.bytes_back, self.waited = 0, 0, 0.0

    @property
    def threads(self) -> int:
        return int(self._cluster.threads)

    @property
    def memory(self) -> int | None:
        return None

    def map_ordered(self, function: Any, items: Any, /) -> Iterator[Any]:
        outcomes = self._cluster.map_ordered(function, items)
        while True:
            started = perf_counter()
            try:
                one = next(outcomes)
            except StopIteration:
                return
            self.waited += perf_counter() - started
            self.items += 1
            if self.items % EVERY == 0:  # to look at each would cost as much as to send it
                buffers: list[Any] = []
                size = len(pickle.dumps(one, protocol=5, buffer_callback=buffers.append))
                self.bytes_back += EVERY * (size + sum(memoryview(buffer).nbytes for buffer in buffers))
            yield one


@contextlib.contextmanager
def cluster_of(workers: int, threads: int) -> Iterator[Any]:
    import distributed

    from mangler.workforces.cluster import HERE, Cluster

    own = distributed.LocalCluster(  # type: ignore[no-untyped-call]
        n_workers=workers,
        threads_per_worker=threads,
        host=HERE,
        dashboard_address=f"{HERE}:0",
        worker_dashboard_address=f"{HERE}:0",
    )
    with own, distributed.Client(own) as client:  # type: ignore[no-untyped-call]
        yield Cluster(client)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rows", type=int, default=20_000_000)
    parser.add_argument("--rounds", type=int, default=1)
    asked = parser.parse_args()
    extract = firings(asked.rows)
    print(f"{asked.rows:,} rows, {extract.stat().st_size / 1e6:,.0f} MB, medians of {asked.rounds}")
    keep_freed_memory()  # as the program does
    for workers, threads in ((1, 2), (1, 1), (2, 1), (3, 1), (4, 1)):
        with cluster_of(workers, threads) as cluster:
            list(cluster.map_ordered(abs, range(workers * threads)))
            for name in RECIPES:
                plain, found = [], []
                for _ in range(asked.rounds):  # in turn: the machine is not the same for long
                    plain.append(_run(name, extract, None)[0])
                    found.append(_run(name, extract, Measured(cluster)))
                _show(name, workers, threads, asked.rows, median(plain), found)
    _tasks()


def _show(
    name: str, workers: int, threads: int, rows: int, plain: float, found: list[tuple[float, float, Any]]
) -> None:
    seconds, here, force = sorted(found, key=lambda one: one[0])[len(found) // 2]
    print(
        f"{name:6} {workers} x {threads} threads  {seconds:7.2f} s  {rows / seconds / 1e6:6.2f} million rows/s"
        f"  {seconds / plain:4.2f} times the plain run ({plain:.2f} s);"
        f" {force.items} outcomes, {force.bytes_back / rows:5.1f} bytes a row back,"
        f" coordinator {here:5.2f} s of processor, {here / max(1, force.items) * 1000:5.1f} ms for each"
    )


def _run(name: str, extract: Path, workforce: Any) -> tuple[float, float, Any]:
    import mangler
    from mangler.engine.run.options import RunOptions

    recipe = mangler.Recipe.parse(RECIPES[name])
    started, used = perf_counter(), process_time()
    recipe.core.run(extract, DATA / "out.csv", None, RunOptions(workforce=workforce, keep_aside=False))
    return perf_counter() - started, process_time() - used, workforce


def _tasks() -> None:
    """What a task costs that does nothing."""
    with cluster_of(2, 1) as cluster:
        list(cluster.map_ordered(abs, range(100)))
        started = perf_counter()
        list(cluster.map_ordered(abs, range(1000)))
        print(f"a task that does nothing: {(perf_counter() - started):.2f} ms of 1,000 in turn, two workers")


if __name__ == "__main__":
    main()
