"""What a server of PostgreSQL says."""

from __future__ import annotations


def told(error: BaseException) -> str:
    """What the server said, without what the driver puts before and behind it."""
    text = str(error)
    for mark in ("ERROR:", "FATAL:"):
        if mark in text:
            text = text.split(mark, 1)[1]
    for mark in ("CONTEXT:", "Query was:", ". SQLSTATE:"):
        text = text.split(mark)[0]
    return "; ".join(line.strip() for line in text.splitlines() if line.strip())
