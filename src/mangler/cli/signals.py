"""Signals that end the program: interrupt, terminate, hang-up.

Python looks after signals between its own instructions, so a long computation in a library would hold them up. What
has been begun is then taken away by a thread that waits for this, and the process ends.
"""

from __future__ import annotations

import os
import signal
import sys
import threading
import time
from typing import Any, NoReturn

GRACE = 3.5
"""Seconds that the program has to end by itself after a signal."""
ENDING = (signal.SIGINT, signal.SIGTERM, signal.SIGHUP)


class Ended(SystemExit):
    """The program is ended by a signal from outside."""

    def __init__(self, number: int) -> None:
        super().__init__(128 + number)
        self.number = number


def listen(grace: float = GRACE, says: bool = True) -> None:
    """From now on these signals end the program within seconds, and what it has begun is taken away.

    `says` is whether the user hears of it here; a process of --workers leaves it to the one that started it.
    """
    for number in (signal.SIGTERM, signal.SIGHUP):
        if signal.getsignal(number) is not signal.SIG_IGN:  # nohup has hang-ups ignored
            signal.signal(number, _end)
    read, write = os.pipe()
    os.set_blocking(write, False)
    signal.set_wakeup_fd(write, warn_on_full_buffer=False)
    threading.Thread(target=_watch, args=(read, grace, says), daemon=True).start()


def _end(number: int, frame: Any) -> NoReturn:  # noqa: ARG001
    raise Ended(number)


def _watch(wakened: int, grace: float, says: bool) -> None:
    """Hears of each signal at once, also while a library computes."""
    while True:
        for number in os.read(wakened, 64):
            if number in ENDING and signal.getsignal(number) is not signal.SIG_IGN:
                time.sleep(grace)
                _end_at_once(number, says)


def _end_at_once(number: int, says: bool) -> NoReturn:
    from mangler.formats.delivery import take_unfinished_away

    take_unfinished_away()
    if says:
        sys.stderr.write(ended_by(number) + "\n")
        sys.stderr.flush()
    os._exit(128 + number)


def ended_by(number: int) -> str:
    """What is said when a signal ends the command."""
    what = "Interrupted" if number == signal.SIGINT else f"Ended by {signal.Signals(number).name}"
    return f"{what}: what was not delivered yet is as it was before."
