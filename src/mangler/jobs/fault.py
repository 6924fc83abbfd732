"""An unforeseen exception as a refusal: a fault of Mangler, with a file of details for its authors."""

from __future__ import annotations

import os
import platform
import sys
import tempfile
import traceback

from mangler import __version__
from mangler.language.mistake import (
    ExitCode,
    Mistake,
    Refusal,
    extract_does_not_fit,
    file_trouble,
    out_of_memory,
    reason,
)

AS_BEFORE = "What was not delivered yet is as it was before."
"""An exception may come after an output is in its place, while the summary is shown."""
NO_THREADS = ("can't start new thread", "Failed to launch worker thread")
"""What is said where there is no memory for another thread."""
TOO_LARGE = ("TooLargeError", "ArrowCapacityError")
"""Known by their names: to import them would load Arrow."""


def refusal_of(error: Exception) -> Refusal:
    """The refusal that an exception means. The details of an unforeseen one go to a temporary file."""
    if isinstance(error, Refusal):
        return error
    if isinstance(error, MemoryError) or any(message in str(error) for message in NO_THREADS):
        return out_of_memory()
    if any(kind.__name__ in TOO_LARGE for kind in type(error).__mro__):
        return extract_does_not_fit(
            "too-large",
            "a step would make a column of more than 2 GB at once",
            f"{AS_BEFORE} Split the extract, or let the step make less of each row.",
        )
    if isinstance(error, OSError):
        return file_trouble(
            "file-not-usable", f"{error.filename or 'a file'} cannot be used: {reason(error)}"
        )
    return _fault(error)


def _fault(error: Exception) -> Refusal:
    said = f"{type(error).__name__}: {str(error) or 'no reason given'}".split("\n")[0]
    try:
        handle, path = tempfile.mkstemp(prefix="mangler-fault-", suffix=".txt")
        with os.fdopen(handle, "w", encoding="utf-8", errors="backslashreplace") as file:
            file.write(_details(error))
        where = f"the details are in {path}"
    except OSError as trouble:
        where = f"a file for the details could not be written ({reason(trouble)})"
    return Refusal(
        [
            Mistake(
                "fault",
                f"this is a fault of Mangler, not yours: {said[:200]}",
                f"{AS_BEFORE} Please report it to the authors of Mangler; {where}.",
            )
        ],
        ExitCode.FAULT,
    )


def _details(error: Exception) -> str:
    lines = [
        f"mangler {__version__}, Python {platform.python_version()}, {platform.platform()}",
        f"command: {sys.argv!r}",
        "",
        *traceback.format_exception(error),
    ]
    return "\n".join(lines)
