"""Holds an extract against the last runs while it is read, and says which steps a difference endangers."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any

from mangler.engine.pipeline import WORKERS, in_order
from mangler.engine.plan import plan
from mangler.formats.delimited.blocks import Block
from mangler.formats.delimited.extract import Extract, open_extract
from mangler.insight.drift import Change, Drift, drift_of
from mangler.insight.fingerprint import Fingerprint
from mangler.insight.fingerprint_taking import FingerprintTaker
from mangler.language.layout import one_line
from mangler.language.mistake import Mistake, Refusal
from mangler.language.names import columns_spoken_of
from mangler.language.recipe import ParsedRecipe
from mangler.language.statement import Statement
from mangler.steps import read as read_verb
from mangler.table.schema import Schema
from mangler.table.settings import ReadSettings

MOST_STEPS = 3


@dataclass(frozen=True)
class Endangered:
    """A difference, and the steps of the recipe that speak of what is not as it was."""

    drift: Drift
    steps: tuple[Statement, ...]

    @property
    def told(self) -> str:
        if not self.steps:
            return self.drift.told
        labels = [step.label for step in self.steps[:MOST_STEPS]]
        more = f" and {len(self.steps) - MOST_STEPS} more" if len(self.steps) > MOST_STEPS else ""
        word = "line" if len(self.steps) == 1 else "lines"
        return f"{self.drift.told} (see {word} {', '.join(labels)}{more})"

    def to_json(self) -> dict[str, Any]:
        return {
            "change": str(self.drift.change),
            "told": self.drift.told,
            "columns": list(self.drift.columns),
            "steps": [{"line": step.line, "step": one_line(step)} for step in self.steps],
        }


def endangered(recipe: ParsedRecipe, drift: Drift) -> Endangered:
    """Which steps a difference endangers: those that name the column, or the read statement."""
    if drift.change in (Change.DELIMITER, Change.ENCODING):
        read = recipe.only("read")
        return Endangered(drift, (read,) if read else ())
    is_about_names = drift.change in (Change.COLUMN_GONE, Change.COLUMN_RENAMED)
    passed_over = ("test",) if is_about_names else ("test", "require columns")
    steps = [
        statement
        for statement in recipe.statements
        if statement.verb not in passed_over and set(columns_spoken_of(statement)) & set(drift.columns)
    ]
    return Endangered(drift, tuple(steps))


class DriftWatcher(FingerprintTaker):
    """Takes the fingerprint of an extract as it is read, and holds it against those of earlier runs.

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

    def told(self) -> dict[str, Any] | None:
        """The fingerprint for a history."""
        taken = self.fingerprint
        return None if taken is None else taken.to_json()

    def warnings(self) -> list[str]:
        return [finding.told for finding in self.findings()]


@dataclass(frozen=True)
class Checked:
    """What does not fit of an extract: the recipe's needs, and what is not as it was in earlier runs."""

    extract: str
    earlier: int
    """How many runs it was held against."""
    mistakes: tuple[Mistake, ...]
    findings: tuple[Endangered, ...]
    unfit: int = 0
    """Rows that have no place in the table."""

    @property
    def fits(self) -> bool:
        return not self.mistakes and not self.findings


def check_extract(
    recipe: ParsedRecipe,
    path: str,
    before: Sequence[Fingerprint],
    progress: Callable[[int, int], None] | None = None,
) -> Checked:
    """Reads an extract to its end; nothing is written. Where another delimiter fits it better it is read by that."""
    settings = read_verb.settings(recipe.only("read"))
    extract = open_extract(path, settings)
    mistakes: tuple[Mistake, ...] = ()
    try:
        try:
            plan(recipe, Schema.of_text(extract.names), extract.hint)
        except Refusal as refusal:
            mistakes = refusal.mistakes
        if mistakes and extract.hint() and path != "-":
            extract.close()
            extract = open_extract(path, replace(settings, delimiter=None))
        watcher = DriftWatcher(recipe, lambda: before)
        unfit = _read(extract, settings, watcher, progress)
    finally:
        extract.close()
    return Checked(extract.name, len(before), mistakes, tuple(watcher.findings()), unfit)


def _read(
    extract: Extract,
    settings: ReadSettings,
    watcher: DriftWatcher,
    progress: Callable[[int, int], None] | None,
) -> int:
    """Has the watcher see every row; how many have no place in the table."""
    watcher.begin(
        extract.names, extract.dialect.delimiter, settings.encoding or extract.found_out.get("encoding", "")
    )

    def look(block: Block) -> tuple[Any, int, Block]:
        parsed = extract.parser.parse(block)
        return watcher.look(parsed.batch), len(parsed.unfit), block

    unfit = 0
    for seen, without_place, block in in_order(extract.blocks(), look, WORKERS):
        watcher.note(seen)
        unfit += without_place
        if progress:
            progress(block.first_row + block.count - 1, block.bytes_read)
    return unfit
