"""Compares an extract with the last runs while it is read, and says which steps a difference endangers."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from mangler.insight.fingerprint.change import Change, Drift
from mangler.insight.fingerprint.drift import drift_of
from mangler.insight.fingerprint.fingerprint import Fingerprint
from mangler.insight.fingerprint.fingerprint_taking import FingerprintTaker
from mangler.language.layout import one_line
from mangler.language.names import columns_mentioned
from mangler.language.recipe import ParsedRecipe
from mangler.language.statement import Statement
from mangler.late_dataclass import dataclass

MOST_STEPS = 3


@dataclass(frozen=True)
class Endangered:
    """A difference, and the steps of the recipe that mention what is not as it was."""

    drift: Drift
    steps: tuple[Statement, ...]

    @property
    def message(self) -> str:
        if not self.steps:
            return self.drift.message
        labels = [step.label for step in self.steps[:MOST_STEPS]]
        more = f" and {len(self.steps) - MOST_STEPS} more" if len(self.steps) > MOST_STEPS else ""
        word = "line" if len(self.steps) == 1 else "lines"
        return f"{self.drift.message} (see {word} {', '.join(labels)}{more})"

    @property
    def told(self) -> str:
        """The message, under the name that it had first."""
        return self.message

    def to_json(self) -> dict[str, Any]:
        return {
            "change": str(self.drift.change),
            "told": self.drift.message,
            "columns": list(self.drift.columns),
            "consequences": list(self.drift.consequences),
            "steps": [{"line": step.line, "step": one_line(step)} for step in self.steps],
        }


def endangered(recipe: ParsedRecipe, drift: Drift) -> Endangered:
    """Which steps a difference endangers: steps that name the column, or the read statement."""
    if drift.change in (Change.DELIMITER, Change.ENCODING):
        read = recipe.only("read")
        return Endangered(drift, (read,) if read else ())
    is_about_names = drift.change in (Change.COLUMN_GONE, Change.COLUMN_RENAMED)
    passed_over = ("test",) if is_about_names else ("test", "require columns")
    steps = [
        statement
        for statement in recipe.statements
        if statement.verb not in passed_over and set(columns_mentioned(statement)) & set(drift.columns)
    ]
    return Endangered(drift, tuple(steps))


class DriftWatcher(FingerprintTaker):
    """Takes the fingerprint of an extract as it is read, and compares it with those of earlier runs.

    `before` is asked for them once the extract was read: an earlier run may end until then.
    """

    def __init__(self, recipe: ParsedRecipe, before: Callable[[], Sequence[Fingerprint]]) -> None:
        super().__init__()
        self._recipe, self._before = recipe, before

    def findings(self) -> list[Endangered]:
        taken = self.fingerprint
        if taken is None:
            return []
        return [endangered(self._recipe, drift) for drift in drift_of(taken, self._before())]

    def fingerprint_record(self) -> dict[str, Any] | None:
        """The fingerprint for a history."""
        taken = self.fingerprint
        return None if taken is None else taken.to_json()

    def warnings(self) -> list[str]:
        """What a run warns of."""
        return [finding.message for finding in self.findings()]
