"""What a run tells: one line per step, and the balance of rows."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from dataclasses import asdict, field
from typing import Any

import numpy as np

from mangler.formats.aside import AsideRow, AsideRows
from mangler.language.mistake import Refusal, extract_does_not_fit
from mangler.late_dataclass import dataclass
from mangler.table.contract import Report
from mangler.table.tally import Tally

MOST_REASONS = 3
MOST_DIFFERENT, MOST_TOLD = 1_000, 20
"""Different reasons for rows set aside that are counted, and those of most rows that are told."""


@dataclass
class StepLine:
    """One step of the recipe: its line there, its text, what it counted, and seconds of work over all threads."""

    line: int
    text: str
    tally: Tally = field(default_factory=Tally)
    seconds: float = 0.0
    remarks: list[str] = field(default_factory=list)
    facts: list[str] = field(default_factory=list)
    """What the step did besides the counts, as its statement says; nothing to fix."""
    file: str = ""
    """The file that the step is in, where that is an included one."""
    warnings: list[str] = field(default_factory=list)
    """What is not as the step requires, and is delivered all the same."""

    def close(self, report: Report) -> None:
        """Takes over what the step says about the whole run."""
        self.remarks, self.facts, self.warnings = report.remarks, report.facts, report.warnings

    @property
    def label(self) -> str:
        """Where the step is: its line, and the file where that is not the recipe."""
        if not self.line:
            return ""
        return f"{self.file}:{self.line}" if self.file else str(self.line)


@dataclass
class Balance:
    """Every row read or added is delivered, dropped, merged into another, or withdrawn.

    Withdrawn are rows that came from extract rows set aside; `set_aside` counts those extract rows.
    """

    read: int = 0
    added: int = 0
    delivered: int = 0
    dropped: int = 0
    merged: int = 0
    withdrawn: int = 0
    set_aside: int = 0

    @property
    def is_even(self) -> bool:
        return self.read + self.added == self.delivered + self.dropped + self.merged + self.withdrawn

    def require_even(self) -> None:
        if not self.is_even:
            raise extract_does_not_fit(
                "rows-lost",
                f"the rows do not balance: {self.read:,} read + {self.added:,} added, but {self.delivered:,}"
                f" delivered + {self.dropped:,} dropped + {self.merged:,} merged + {self.withdrawn:,} withdrawn",
                "Nothing is delivered. This is a fault of Mangler: please report it with the recipe.",
            )


@dataclass
class AsideReasons:
    """How many extract rows were set aside for each reason, and by which step."""

    _rows: Counter[tuple[str, str]] = field(default_factory=Counter)

    def add(self, rows: AsideRows) -> None:
        """Counts rows; a reason that comes after MOST_DIFFERENT others of all steps is counted without its words."""
        codes, firsts, counts = np.unique(rows.notes.codes, return_index=True, return_counts=True)
        for at in np.argsort(firsts).tolist():  # in the order of the rows, whatever batches they come in
            code = int(codes[at])
            reason = rows.steps[code], rows.notes.reasons[code]
            if reason not in self._rows and len(self._rows) >= MOST_DIFFERENT:
                reason = rows.steps[code], ""
            self._rows[reason] += int(counts[at])

    def to_json(self) -> list[dict[str, Any]]:
        """Those of most rows first, then as they came; the rest of each step in one line without a reason."""
        ordered = sorted(self._rows.items(), key=lambda item: -item[1])
        shown = [item for item in ordered if item[0][1]][:MOST_TOLD]
        rest: Counter[str] = Counter()
        for (step, _), rows in ordered:
            rest[step] += rows
        for (step, _), rows in shown:
            rest[step] -= rows
        listed = [{"step": step, "reason": reason, "rows": rows} for (step, reason), rows in shown]
        return listed + [{"step": step, "reason": None, "rows": rows} for step, rows in rest.items() if rows]


@dataclass
class Summary:
    """The account of one extract's run."""

    recipe: str
    title: str
    extract: str
    output: str = ""
    aside: str = ""
    """The file of rows set aside; empty when there is none."""
    detected: dict[str, str] = field(default_factory=dict)
    columns: list[str] = field(default_factory=list)
    steps: list[StepLine] = field(default_factory=list)
    writing: StepLine = field(default_factory=lambda: StepLine(0, "write"))
    """The output: the line of `write` where the recipe has one, and seconds over all threads."""
    setting_aside: StepLine = field(default_factory=lambda: StepLine(0, "rows set aside"))
    """Writing rows set aside: only seconds; the balance counts the rows."""
    balance: Balance = field(default_factory=Balance)
    aside_examples: list[AsideRow] = field(default_factory=list)
    aside_reasons: AsideReasons = field(default_factory=AsideReasons)
    warnings: list[str] = field(default_factory=list)
    nulls_read: dict[str, int] = field(default_factory=dict)
    """Null cells of each column of the extract, null words among them."""
    nulls_delivered: dict[str, int] = field(default_factory=dict)
    """Null cells of each column that came out."""
    seconds: float = 0.0
    together: Summary | None = None
    """That of the steps that saw the rows of several extracts as one table; None where there are none."""
    version: str = ""
    """Of a file elsewhere what its place says of its content; empty where it says nothing."""
    newest: Mapping[str, Any] | None = None
    """What is noted of a table that grows, for the next run."""
    rehearsal: bool = False
    replaced: str = ""
    """What was in the output's place before; empty where nothing was."""
    appended: bool = False
    """Whether the rows went behind those that were in the output before."""
    not_noted: str = ""
    """Why a history does not know of the run; empty where it does, or where there is none."""

    @property
    def found_out(self) -> dict[str, str]:
        """What was detected, under the name that it has in `--json`."""
        return self.detected

    def stop_clock(self, seconds: float) -> None:
        """The run took `seconds`. All times are now whole microseconds: a history shows what the run showed."""
        self.seconds = round(seconds, 6)
        for line in (*self.steps, self.writing, self.setting_aside):
            line.seconds = round(line.seconds, 6)

    def note_aside(self, rows: AsideRows) -> None:
        """Counts rows set aside, and keeps the first few of a run."""
        self.balance.set_aside += len(rows)
        self.aside_reasons.add(rows)
        self.aside_examples += rows.first(MOST_REASONS - len(self.aside_examples))

    def to_json(self) -> dict[str, Any]:
        """The documented shape of `--json`, one extract of it."""
        return {
            "extract": self.extract,
            "title": self.title,
            "delivered": not self.rehearsal,
            "output": self.output or None,
            "aside": self.aside or None,
            "replaced": self.replaced or None,
            "appended": self.appended,
            "not_noted": self.not_noted or None,
            "found_out": self.detected,
            "columns": self.columns,
            "steps": [
                {
                    "line": step.line,
                    "file": step.file or None,
                    "step": step.text,
                    **{name: step.tally.count(name) for name in COUNTS},
                    "seconds": step.seconds,
                    "facts": step.facts,
                    "remarks": step.remarks,
                }
                for step in self.steps
            ],
            "writing": {
                "line": self.writing.line,
                "step": self.writing.text,
                "seconds": self.writing.seconds,
            },
            "seconds_setting_aside": self.setting_aside.seconds,
            "balance": asdict(self.balance),
            "set_aside_first": [
                {"row": one.row, "line": one.line, "step": one.step, "reason": one.reason}
                for one in self.aside_examples
            ],
            "set_aside_reasons": self.aside_reasons.to_json(),
            "nulls": {"read": self.nulls_read, "delivered": self.nulls_delivered},
            "version": self.version,
            "newest": self.newest,
            "together": None if self.together is None else self.together.to_json(),
            "warnings": self.warnings,
            "seconds": self.seconds,
        }


def row_and_line(row: int, line: int) -> str:
    """Where an extract row is; its line is not known any more once rows were gathered."""
    return f"row {row:,}, line {line:,}" if line else f"row {row:,}"


def example_text(row: int, line: int, reason: str) -> str:
    """An extract row and what is wrong with it, in one line; line breaks and tabs of its cells are shown as marks."""
    return f"{row_and_line(row, line)}: {reason.translate(MARKS)}"


MARKS = {ord("\n"): "↵", ord("\r"): "←", ord("\t"): "→"}


def rows_text(count: int) -> str:
    return f"{count:,} {'row' if count == 1 else 'rows'}"


def examples_text(rows: list[AsideRow]) -> str:
    return "\n".join(f"    {example_text(row.row, row.line, row.reason)}" for row in rows)


COUNTS = (
    "rows_in",
    "rows_out",
    "rows_added",
    "rows_merged",
    "cells_changed",
    "nulls_made",
    "nulls_filled",
    "cells_emptied",
    "empties_left",
    "rows_met",
    "rows_false",
    "rows_null",
    "withdrawn",
    "unmet",
)


def refusal_to_json(extract: str, refusal: Refusal) -> dict[str, Any]:
    """An extract that was refused, in the shape of `--json`."""
    return {"extract": extract, "delivered": False, "mistakes": mistakes_to_json(refusal)}


def mistakes_to_json(refusal: Refusal) -> list[dict[str, Any]]:
    return [
        {
            "word": mistake.word,
            "message": mistake.message,
            "advice": mistake.advice or None,
            "recipe": mistake.span.source.name if mistake.span else None,
            "line": mistake.span.line if mistake.span else None,
            "column": mistake.span.column if mistake.span else None,
        }
        for mistake in refusal.mistakes
    ]
