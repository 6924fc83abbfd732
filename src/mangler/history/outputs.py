"""The files that past runs wrote, as far as they are still there."""

from __future__ import annotations

from pathlib import Path

from mangler.history.store import History
from mangler.language.mistake import Refusal, extract_does_not_fit

ADVICE = "mangler history lists the runs. An output that is written to a file of its own each time stays."


def output_of(history: History, number: int) -> Path:
    """The file that a run delivered. Refused where it is not there any more, or another one is in its place."""
    run = history.run(number)
    if run is None:
        raise extract_does_not_fit("unknown-run", f"there is no run {number}", "mangler history lists them.")
    if not run.output:
        raise _gone(number, "wrote no file on this machine")
    output = Path(run.output)
    try:
        found = history.what_is_at(output)
    except OSError:
        raise _gone(number, f"wrote {output}, which is not there any more") from None
    if found != f"the output of run {number}":
        raise _gone(number, f"wrote {output}, and there is {found} now")
    return output


def _gone(number: int, why: str) -> Refusal:
    return extract_does_not_fit("output-gone", f"run {number} {why}", ADVICE)
