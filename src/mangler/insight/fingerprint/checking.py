"""`check`: what of an extract no longer fits. The recipe is run on it, and nothing is written."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

from mangler.engine.run.destination import FileOutput
from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.run.options import RunOptions
from mangler.formats.contract import Partition, ReadRequest
from mangler.formats.reading import read_partitions
from mangler.formats.registry import open_source
from mangler.insight.fingerprint.fingerprint import Fingerprint
from mangler.insight.fingerprint.watching import DriftWatcher, Endangered
from mangler.language.mistake import ExitCode, Mistake, Refusal
from mangler.late_dataclass import dataclass
from mangler.steps import read as read_verb
from mangler.table.in_order import WORKERS

Progress = Callable[[int, int], None]


@dataclass(frozen=True)
class Checked:
    """What does not fit of an extract: the recipe's needs, and what is not as it was in earlier runs."""

    extract: str
    earlier: int
    """How many runs it was compared with."""
    mistakes: tuple[Mistake, ...] = ()
    """Why a run would not deliver it."""
    findings: tuple[Endangered, ...] = ()
    """What is not as it was, the most harmful first."""
    set_aside: int = 0
    """Rows that a run would set aside; where it would refuse the extract, those without a place, if that is known."""
    warnings: tuple[str, ...] = ()
    """What the recipe itself warns of: rows that are not as required."""
    code: ExitCode = ExitCode.DONE
    """That of a run, except for what is not as it was: that is 1 too."""

    @property
    def fits(self) -> bool:
        return not self.mistakes and not self.findings


class _Onlooker(DriftWatcher):
    """Says what it finds when it is asked, and not among the warnings of the run."""

    def warnings(self) -> list[str]:
        return []


def check_extract(
    recipe: LinkedRecipe, path: str, before: Sequence[Fingerprint], progress: Progress | None = None
) -> Checked:
    """Reads an extract to its end; where it cannot be read as the recipe says, by the delimiter that fits it better."""
    watcher = _Onlooker(recipe.parsed, lambda: before)
    name = "(standard input)" if path == "-" else path
    checked = Checked(name, len(before))
    try:
        options = RunOptions(watcher=watcher, progress=progress)
        cleaned = recipe.prepare(path, FileOutput(None, rehearse=True), None, options)
    except Refusal as refusal:
        if refusal.code is ExitCode.FILE_TROUBLE:
            raise
        checked = replace(checked, mistakes=refusal.mistakes, code=refusal.code)
        if watcher.fingerprint is None and path != "-":  # it was refused before a row was read
            checked = replace(checked, set_aside=_read(recipe, path, watcher, progress))
    else:
        summary = cleaned.result.summary
        checked = replace(
            checked, set_aside=summary.balance.set_aside, warnings=tuple(summary.warnings), code=ExitCode.DONE
        )
    findings = tuple(watcher.findings()) if watcher.has_ended else ()
    if findings and checked.code is ExitCode.DONE:
        checked = replace(checked, code=ExitCode.ANSWER_IS_NO)
    return replace(checked, findings=findings)


def _read(recipe: LinkedRecipe, path: str, watcher: DriftWatcher, progress: Progress | None) -> int:
    """Has the watcher see every row; how many do not fit in the table."""
    settings = read_verb.settings(recipe.parsed.only("read"))
    source = open_source(path, ReadRequest(settings))
    try:
        if (why := source.explain_missing()) is not None:
            source.close()
            source = open_source(path, ReadRequest(why.better))
        watcher.begin(source.schema, source.details)

        def observe(partition: Partition) -> tuple[Any, int]:
            parsed = source.read(partition)
            return watcher.observe(parsed.batch), len(parsed.unfit)

        unfit = 0
        for seen, without_place in read_partitions(source, observe, WORKERS, progress=progress):
            watcher.collect(seen)
            unfit += without_place
        watcher.end()
        return unfit
    finally:
        source.close()
