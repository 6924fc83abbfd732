"""Starts the program in a tenth of the time: forks of a process that has loaded its modules, and has done nothing yet.

A test suite starts the program a thousand times, and each start loads the same modules for a second. What is started
here is the same `main` in a process of its own, with its own folder, environment and streams. What looks at the start
itself, or at what Python takes from the environment, starts the installed program (`tests/cli/program.py`).
"""

from __future__ import annotations

import array
import contextlib
import json
import os
import signal
import socket
import subprocess
import sys
import threading
from pathlib import Path
from typing import IO

LENGTH = 8
PATIENCE = 120


class Forking:
    """The process that forks, and the way to ask it for one more."""

    def __init__(self) -> None:
        ours, theirs = socket.socketpair()
        with theirs:
            self._server = subprocess.Popen(
                [sys.executable, __file__, str(theirs.fileno())],
                pass_fds=[theirs.fileno()],
                stdin=subprocess.DEVNULL,
                stdout=subprocess.DEVNULL,
            )
        self._socket = ours

    def run(self, words: list[str], cwd: str, env: dict[str, str], stdin: bytes) -> tuple[int, bytes, bytes]:
        """The exit code, and what came on both streams."""
        (take, give), (out, out_end), (err, err_end) = os.pipe(), os.pipe(), os.pipe()
        message = json.dumps({"words": words, "cwd": cwd, "env": env}, ensure_ascii=True).encode()
        ends = array.array("i", [take, out_end, err_end])
        self._socket.sendmsg(
            [len(message).to_bytes(LENGTH, "big")], [(socket.SOL_SOCKET, socket.SCM_RIGHTS, ends.tobytes())]
        )
        self._socket.sendall(message)
        for end in (take, out_end, err_end):
            os.close(end)
        answers: dict[int, bytes] = {}
        readers = [threading.Thread(target=_read, args=(end, answers)) for end in (out, err)]
        writer = threading.Thread(target=_write, args=(give, stdin))
        for thread in (*readers, writer):
            thread.start()
        self._socket.settimeout(PATIENCE)
        code = int.from_bytes(_exactly(self._socket, LENGTH), "big", signed=True)
        for thread in (*readers, writer):
            thread.join()
        return code, answers[out], answers[err]

    def close(self) -> None:
        self._socket.close()
        self._server.wait()


def _read(end: int, answers: dict[int, bytes]) -> None:
    with os.fdopen(end, "rb") as stream:
        answers[end] = stream.read()


def _write(end: int, content: bytes) -> None:
    with contextlib.suppress(BrokenPipeError), os.fdopen(end, "wb", buffering=0) as stream:
        view = memoryview(content)
        while view:
            view = view[stream.write(view) or 0 :]


def _exactly(source: socket.socket, count: int) -> bytes:
    content = b""
    while len(content) < count:
        more = source.recv(count - len(content))
        if not more:
            raise EOFError("the process that forks has ended")
        content += more
    return content


# The other side


def serve(descriptor: int) -> None:
    """Forks for each request. It stays without threads, so that a fork has all there is."""
    _load()
    signal.pthread_sigmask(signal.SIG_UNBLOCK, [signal.SIGINT, signal.SIGTERM])
    with socket.socket(fileno=descriptor) as asked:
        while True:
            try:
                head, rights, _, _ = asked.recvmsg(LENGTH, socket.CMSG_SPACE(3 * array.array("i").itemsize))
            except OSError:
                return
            if not head:
                return
            ends = array.array("i")
            for _, _, data in rights:
                ends.frombytes(data[: len(data) - len(data) % ends.itemsize])
            request = json.loads(_exactly(asked, int.from_bytes(head, "big")))
            child = os.fork()
            if not child:
                asked.detach()
                os.close(descriptor)
                become(request, list(ends))  # ends as the program does
            for end in ends:
                os.close(end)
            status = os.waitstatus_to_exitcode(os.waitpid(child, 0)[1])
            asked.sendall(status.to_bytes(LENGTH, "big", signed=True))


def become(request: dict[str, object], ends: list[int]) -> None:
    """The program, with these words, in this folder, with these streams."""
    for number, end in enumerate(ends):
        os.dup2(end, number)
        os.close(end)
    streams: list[IO[str]] = [
        open(number, mode, closefd=False, errors=errors)  # noqa: SIM115
        for number, mode, errors in ((0, "r", None), (1, "w", None), (2, "w", "backslashreplace"))
    ]
    sys.stdin, sys.stdout, sys.stderr = streams
    words, cwd, env = request["words"], request["cwd"], request["env"]
    assert isinstance(words, list) and isinstance(cwd, str) and isinstance(env, dict)
    os.chdir(cwd)
    os.environ.clear()
    os.environ.update(env)
    sys.argv = [str(Path(sys.executable).with_name("mangler")), *map(os.fsdecode, map(os.fsencode, words))]
    from mangler.__main__ import main

    main()


def _load() -> None:
    """What every command would load. Nothing is called that starts a thread, or keeps an answer."""
    import mangler.cli.commands.trial
    import mangler.cli.run_request
    import mangler.cli.screen
    import mangler.cli.views.profile_view
    import mangler.cli.views.trial_view
    import mangler.engine.trial.look
    import mangler.formats.delimited.opening
    import mangler.insight.profile.profile
    import mangler.jobs.job  # noqa: F401

    # And the methods of its classes, which each fork would make again.
    for name, module in list(sys.modules.items()):
        if name.startswith("mangler."):
            for one in list(vars(module).values()):
                if isinstance(one, type):
                    getattr(one, "__dataclass_fields__", None)


if __name__ == "__main__":
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    serve(int(sys.argv[1]))
