from __future__ import annotations

import signal

# A shell starts what runs in its background with this signal ignored, and every program started from there
# ignores it too: tests that send it would wait for an end that does not come.
if signal.getsignal(signal.SIGINT) is signal.SIG_IGN:
    signal.signal(signal.SIGINT, signal.default_int_handler)
