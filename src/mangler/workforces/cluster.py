"""A cluster of dask.distributed as a workforce: its scheduler hands out work, and again where a worker is lost."""

from __future__ import annotations

import contextlib
import logging
import pickle
import signal
from collections import deque
from collections.abc import Callable, Iterable, Iterator
from importlib import import_module
from multiprocessing import resource_tracker
from typing import Any

from mangler.distribution import installed_version
from mangler.language.mistake import Refusal, file_trouble, wrong_recipe

LOCAL = "local:"
"""Begins an address that asks for worker processes on this machine, as many as the number behind it."""
SCHEMES = ("tcp://", "tls://", "ucx://")
AHEAD = 2
"""For each thread of the workers so many items are given out: one is worked on, and one waits."""
LARGEST_WITH_EACH = 1 << 20
"""Bytes of a function that go along with each item."""
PATIENCE = 10
"""Seconds to wait for a scheduler."""
MOST_LOCAL = 64
HERE = "127.0.0.1"


class Cluster:
    """The workers of a scheduler. Closing it ends those that it started itself, and no others."""

    def __init__(self, client: Any, own: Any = None) -> None:
        self.client, self._own = client, own
        _refuse_unlike(client)

    @property
    def threads(self) -> int:
        return max(1, int(sum(self.client.nthreads().values())))

    @property
    def memory(self) -> int | None:
        """Half of the memory of the smallest worker, divided among its threads; None where none has a limit."""
        workers = self.client.scheduler_info(n_workers=-1)["workers"].values()
        limits = [one["memory_limit"] // max(1, one["nthreads"]) for one in workers if one["memory_limit"]]
        return min(limits) // 2 if limits else None

    def map_ordered(self, function: Callable[[Any], Any], items: Iterable[Any], /) -> Iterator[Any]:
        """The outcomes in order. Only some items more are given out than are worked on: outcomes wait in memory."""
        distributed = _distributed()
        # Older versions of the library do not tell a closed client from a call that was called back.
        closed = getattr(distributed.client, "ClosedClientError", distributed.CancelledError)
        most, waiting = AHEAD * self.threads, deque[Any]()
        source = iter(items)
        try:
            call = self._sent(function)
            for item in source:
                waiting.append(self.client.submit(*call, item, pure=False))
                if len(waiting) >= most:
                    yield self._outcome(waiting.popleft())
            while waiting:
                yield self._outcome(waiting.popleft())
        except Refusal:
            raise
        except distributed.KilledWorker as error:
            raise file_trouble(
                "worker-lost",
                f"a worker was lost {error.allowed_failures + 1} times over the same work",
                "Nothing is delivered. Had it too little memory? Give it more, or fewer threads.",
            ) from None
        except ModuleNotFoundError as error:
            raise _lacking(error) from None
        except (distributed.CancelledError, closed, OSError, TimeoutError, RuntimeError) as error:
            # Closed while it connects, the library says no more than this.
            if isinstance(error, RuntimeError) and "is closed" not in str(error):
                raise
            raise file_trouble(
                "cluster-lost",
                f"the cluster does not answer any more: {_first_line(error)}",
                "Nothing is delivered. Start it again, and then the run.",
            ) from None
        finally:
            for one in waiting:
                with contextlib.suppress(Exception):
                    one.cancel()

    def _outcome(self, future: Any) -> Any:
        """What came of an item: straight from the worker that has it, and not through the scheduler."""
        return self.client.gather(future, direct=True)

    def _sent(self, function: Callable[[Any], Any]) -> tuple[Any, ...]:
        """The function as it is given out: with each item, so that nothing is lost with a worker.

        A large one, with the content of files that steps look into, is sent to each worker once.
        """
        if len(pickle.dumps(function)) <= LARGEST_WITH_EACH:
            return (function,)
        return _call, self.client.scatter(function, broadcast=True, hash=False)

    def close(self) -> None:
        """Lets go of the cluster; ends what was started for this run."""
        if self._own is None:
            return
        with contextlib.suppress(Exception):
            self.client.close()
        with contextlib.suppress(Exception):
            self._own.close()


def _call(function: Callable[[Any], Any], item: Any) -> Any:
    return function(item)


def open_cluster(address: str) -> Cluster:
    """The cluster at an address, as `tcp://scheduler:8786`; `local:4` starts four worker processes here."""
    try:
        distributed = _distributed()
    except ImportError:
        raise file_trouble(
            "cluster-not-installed",
            "--cluster needs the library dask.distributed",
            "Install it with Mangler: pip install 'mangler[cluster]'",
        ) from None
    for name in ("distributed", "asyncio"):  # what they say is for those who run the cluster
        logging.getLogger(name).setLevel(logging.CRITICAL)
    if address.startswith(LOCAL):
        return _local(address, distributed)
    if not address.startswith(SCHEMES):
        raise wrong_recipe(
            "cluster-address",
            f"--cluster {address} is no address of a scheduler",
            "Write one as tcp://scheduler:8786; or local:2, for two worker processes on this machine.",
        )
    try:
        client = distributed.Client(address, timeout=PATIENCE, set_as_default=False)
    except (OSError, TimeoutError, ValueError) as error:
        raise file_trouble(
            "cluster-not-there",
            f"no scheduler answers at {address}: {_first_line(error)}",
            "Is it started, and can this machine reach it? A scheduler is started with: dask scheduler",
        ) from None
    cluster = Cluster(client, client)
    if not client.nthreads():
        client.close()
        raise file_trouble(
            "cluster-not-there",
            f"the scheduler at {address} has no workers",
            f"Start some: dask worker {address}",
        )
    return cluster


def _distributed() -> Any:
    """The library, which has no types."""
    return import_module("distributed")


def _first_line(error: Exception) -> str:
    return (str(error).splitlines() or [type(error).__name__])[0][:200]


def _local(address: str, distributed: Any) -> Cluster:
    number = address.removeprefix(LOCAL)
    if not number.isdecimal() or not 1 <= int(number) <= MOST_LOCAL:
        raise wrong_recipe(
            "cluster-address",
            f"--cluster {address} does not say how many worker processes",
            f"Write local: and a number from 1 to {MOST_LOCAL}, as local:2.",
        )
    # What is started now, threads and processes, hears of no interrupt: this thread does, and ends them.
    resource_tracker.ensure_running()  # it lets interrupts through where it starts by itself
    held = signal.pthread_sigmask(signal.SIG_BLOCK, {signal.SIGINT})
    try:
        return _started(int(number), distributed)
    finally:
        signal.pthread_sigmask(signal.SIG_SETMASK, held)


def _started(count: int, distributed: Any) -> Cluster:
    own = distributed.LocalCluster(
        n_workers=count,
        threads_per_worker=1,
        processes=True,
        host=HERE,
        dashboard_address=f"{HERE}:0",  # any free port, and no other machine reaches it
        worker_dashboard_address=f"{HERE}:0",
        silence_logs=logging.CRITICAL,
    )
    return Cluster(distributed.Client(own, set_as_default=False), own)


def _refuse_unlike(client: Any) -> None:
    """Refuses workers without Mangler, and with another version of it."""
    try:
        found = client.run(installed_version)
    except ModuleNotFoundError as error:
        raise _lacking(error) from None
    for worker, version in found.items():
        if version != installed_version():
            raise file_trouble(
                "worker-unlike",
                f"the worker at {worker} has Mangler {version}, and this is {installed_version()}",
                "Install the same version on every machine.",
            )


def _lacking(error: ModuleNotFoundError) -> Refusal:
    return file_trouble(
        "worker-unlike",
        f"a worker has no module {error.name}",
        "Install the same version of Mangler on every machine: pip install 'mangler[cluster]'",
    )
