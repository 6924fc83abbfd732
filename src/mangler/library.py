"""Mangler without the command line: for a notebook, a script, or a scheduler's task. Nothing is printed, nothing exits.

What a user should know is raised as a `Refusal`: the recipe is wrong, the extract does not fit, a file makes trouble.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import closing, contextmanager
from dataclasses import replace
from datetime import date
from pathlib import Path
from typing import Any

from mangler.addresses import is_elsewhere, without_password
from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.run.options import RunOptions
from mangler.engine.run.overwriting import files_of, refuse_overwriting
from mangler.engine.run.summary import Summary, refusal_to_json
from mangler.formats.aside import AsideRow
from mangler.history.recording import RecipeHistory, Recording
from mangler.insight.fingerprint.checking import Checked, check_extract
from mangler.insight.fingerprint.fingerprint import Fingerprint, series_of
from mangler.insight.fingerprint.watching import DriftWatcher
from mangler.language.mistake import Refusal, wrong_recipe
from mangler.late_dataclass import dataclass


@dataclass(frozen=True)
class RunResult:
    """What happened to one extract."""

    table: Any
    """The cleaned rows as an Arrow table; None where they were written to a file."""
    path: Path | None
    """The file that they were written to."""
    rows_aside: list[AsideRow]
    """Rows set aside, each as it was read, with the reason."""
    summary: Summary
    """What each step did, and the balance of rows."""

    @property
    def warnings(self) -> list[str]:
        """What deserves a second look: rows that are not as required, what is not as in the last runs."""
        return self.summary.warnings


@dataclass(frozen=True)
class Recipe:
    """A recipe that was read without mistakes."""

    core: LinkedRecipe
    path: Path | None = None

    @classmethod
    def load(
        cls,
        path: str | Path,
        parameters: Mapping[str, str] | None = None,
        files_under: str | Path | None = None,
        run_date: date | None = None,
    ) -> Recipe:
        """Reads a recipe file and those it names. `parameters` are values for the recipe's own, as texts.

        With `files_under` every file that the recipe names must be under that folder, links followed. `run_date` is
        the day that `run_date()` gives, today for None.
        """
        return cls(LinkedRecipe.load(path, parameters, files_under, run_date), Path(path))

    @classmethod
    def parse(
        cls,
        text: str,
        name: str = "recipe",
        parameters: Mapping[str, str] | None = None,
        files_under: str | Path | None = None,
        run_date: date | None = None,
    ) -> Recipe:
        """Reads a recipe's text. Files that it names are found relative to `name`; `files_under` as for `load`."""
        return cls(LinkedRecipe.parse(text, name, parameters, files_under, run_date))

    @property
    def title(self) -> str:
        return self.core.title

    def run(
        self,
        extract: str | Path,
        to: str | Path | None = None,
        aside: str | Path | None = None,
        strict: bool = False,
        history: str | Path | None = None,
        append: str | Path | None = None,
        cluster: Any = None,
    ) -> RunResult:
        """Cleans one extract, into the file `to` or, without it, into a table.

        With `cluster`, a Client of dask.distributed or the address of a scheduler, its workers do the work.

        Extract and `to` may be addresses of databases, `sqlite:///clean.db`; the recipe says which tables.

        In the place of `to`, `append` is a file behind whose rows these go; one that is not there is made.

        Rows set aside go to the file `aside` where it is given, and are in the result always. With `strict` any row set
        aside and any warning is a Refusal; then, as after any other, nothing is written. With `history`, the path of
        one, the extract is compared with the last runs and this one is noted, also where it is refused; only a recipe
        that was loaded from a file has one.
        """
        if cluster is not None:
            with workforce_of(cluster) as workforce:
                options = RunOptions(strict=strict, workforce=workforce)
                return self._run(extract, to, aside, history, append, options)
        return self._run(extract, to, aside, history, append, RunOptions(strict=strict))

    def _run(
        self,
        extract: str | Path,
        to: str | Path | None,
        aside: str | Path | None,
        history: str | Path | None,
        append: str | Path | None,
        options: RunOptions,
    ) -> RunResult:
        if append is not None:
            if to is not None:
                raise wrong_recipe(
                    "options-conflict", "run takes to or append, and not both", "Leave one out."
                )
            to = append
        extract = without_password(str(extract))
        to = None if to is None else without_password(str(to))
        if history is None:
            result = self.core.run(extract, to, aside, options, append is not None)
        else:
            own = [(history, "the history")]
            written = [
                (path, what) for path, what in ((to, "the output"), (aside, "the rows set aside")) if path
            ]
            refuse_overwriting(own, [(extract, "the extract itself"), *files_of(self.core.parsed)])
            refuse_overwriting(written, own)
            past = self._past(Path(history))
            with closing(past.history):
                recording, options = looking_on(past, self.core, str(extract), options)
                try:
                    result = self.core.run(extract, to, aside, options, append is not None)
                except Refusal as refusal:
                    recording.refused(str(extract), refusal_to_json(str(extract), refusal))
                    raise
                result.summary.output = "" if to is None else str(to)
                if aside is not None and result.rows_aside:
                    result.summary.aside = str(aside)
                recording.completed(result.summary)
                result.summary.not_noted = recording.trouble
        path = None if to is None or is_elsewhere(to) else Path(to)
        return RunResult(result.table, path, result.rows_aside, result.summary)

    def check(self, extract: str | Path, history: str | Path | None = None) -> Checked:
        """What of an extract no longer fits: the recipe's needs and, with `history`, the last runs.

        The recipe is run on it, and nothing is written.
        """
        if history is None:
            return check_extract(self.core, str(extract), [])
        past = self._past(Path(history), make=False)
        with closing(past.history):
            before = earlier(past, str(extract))
        return check_extract(self.core, str(extract), before)

    def _past(self, history: Path, make: bool = True) -> RecipeHistory:
        if self.path is None:
            raise wrong_recipe(
                "recipe-without-file",
                "a recipe that was read from a text has no history",
                "Load it from its file.",
            )
        return RecipeHistory.open(history, self.path, self.core.digest, make)


@contextmanager
def workforce_of(cluster: Any) -> Iterator[Any]:
    """The workers of a cluster: of a Client of dask.distributed, or of the scheduler at an address."""
    from mangler.workforces.cluster import Cluster, open_cluster

    workforce = open_cluster(cluster) if isinstance(cluster, str) else Cluster(cluster)
    try:
        yield workforce
    finally:
        workforce.close()


def earlier(past: RecipeHistory, extract: str) -> list[Fingerprint]:
    """The last extracts of the same series that the recipe delivered, the latest first."""
    return [Fingerprint.of_json(one) for one in past.fingerprints(series_of(extract))]


def looking_on(
    past: RecipeHistory,
    recipe: LinkedRecipe,
    extract: str,
    options: RunOptions,
    before: Callable[[], Sequence[Fingerprint]] | None = None,
) -> tuple[Recording, RunOptions]:
    """What notes the run of an extract, and the options with which it is compared with earlier ones of its series.

    `before` gives their fingerprints, the latest first; without it they come from the history.
    """
    watcher = DriftWatcher(recipe.parsed, before or (lambda: earlier(past, extract)))
    recording = past.recording(series_of(extract), watcher.fingerprint_record)
    return recording, replace(options, recorder=recording, watcher=watcher)
