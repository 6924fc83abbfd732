"""How extracts are cleaned in one job, and what came out for each."""

from __future__ import annotations

from typing import Any

from mangler.engine.run.linked_recipe import Result
from mangler.engine.run.options import RunOptions
from mangler.engine.run.summary import Summary
from mangler.language.mistake import ExitCode, Refusal
from mangler.late_dataclass import dataclass


@dataclass(frozen=True)
class JobSettings:
    """What applies to every extract of a job."""

    options: RunOptions
    rehearse: bool = False
    into_stdout: bool = False
    """Whether the table goes to standard output: then rows set aside need a file."""
    append: bool = False
    """Whether rows go behind those that are in the output."""
    preview_rows: int = 0
    """So many cleaned rows are kept to be shown."""
    not_noted: str = ""
    """Why no run can be noted in the history that is there; empty where runs are noted, or where there is none."""


@dataclass
class Outcome:
    """What happened to one extract: `result` where it was cleaned, `refusal` where it was not."""

    account: dict[str, Any]
    """In the shape of `--json`."""
    code: int
    """The exit code of a command for this extract alone."""
    result: Result | None = None
    refusal: Refusal | None = None

    @property
    def extract(self) -> str:
        return str(self.account["extract"])

    @property
    def summary(self) -> Summary | None:
        """What each step did; None where the extract was not cleaned."""
        return None if self.result is None else self.result.summary

    @property
    def delivered(self) -> bool:
        return self.code in (ExitCode.DONE, ExitCode.NOT_NOTED) and not self.skipped

    @property
    def skipped(self) -> bool:
        """Whether its content was delivered before, and only new content was wanted."""
        return "delivered_before" in self.account
