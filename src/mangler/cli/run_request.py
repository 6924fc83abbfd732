"""What `mangler run` is asked to do: checked, made a job, and answered."""

from __future__ import annotations

import os
import sys
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from mangler.addresses import known_passwords
from mangler.cli.answering import show_json, show_line, show_refusal
from mangler.cli.parameters import memory_of, named_values, run_date_of
from mangler.cli.run_against import compared, kept, refuse_without_one_file, show
from mangler.cli.run_reporting import refuse_report_over, report_run
from mangler.cli.views.run_view import PREVIEW_ROWS, RunView
from mangler.cli.worker import prepare_worker
from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.run.options import RunOptions
from mangler.engine.run.summary import mistakes_to_json
from mangler.freed_memory import keep_freed_memory
from mangler.history.recording import RecipeHistory
from mangler.history.store import beside
from mangler.jobs.extracts import extracts_of
from mangler.jobs.job import Job, run_job
from mangler.jobs.outcome import JobSettings, Outcome
from mangler.jobs.output_paths import (
    OutputPaths,
    exchanged,
    make_folders,
    plan_appended,
    plan_combined,
    plan_outputs,
    refuse_lost_files,
)
from mangler.language.mistake import Refusal, worst_of, wrong_recipe
from mangler.late_dataclass import dataclass
from mangler.library import workforce_of

if TYPE_CHECKING:
    from mangler.insight.comparison.comparison import Comparison


@dataclass(frozen=True)
class RunRequest:
    """The arguments and options of the command, under their own names."""

    recipe: Path
    files: list[str]
    to: str | None
    append: str | None
    aside: str | None
    rehearse: bool
    strict: bool
    only_new: bool
    history: Path | None
    files_under: Path | None
    parameters: list[str] | None
    run_date: str | None
    rows: int | None
    memory: str | None
    together: bool
    workers: int
    cluster: str | None
    against: str | None
    """A table that the output is compared with."""
    report: Path | None
    """Where a report goes."""
    full: bool | None
    """Whether the account of each extract is full; None: where there is one extract."""
    quiet: bool
    json: bool

    @property
    def rehearses(self) -> bool:
        """Whether nothing is written: asked for, or because the table would go to a terminal."""
        return self.rehearse or (self.target is None and sys.stdout.isatty())

    @property
    def target(self) -> str | None:
        """Where the rows go: a file, a folder, - or nothing for standard output."""
        return self.append if self.append is not None else self.to

    @property
    def into_stdout(self) -> bool:
        return not self.rehearses and self.target in (None, "-")

    @property
    def silent(self) -> bool:
        """Whether only errors are shown."""
        return self.quiet or self.json

    def answer(self) -> int:
        """Does the work, shows what happened to it, and gives the exit code."""
        keep_freed_memory()
        budget = memory_of(self.memory)
        _refuse_two_places(self.to, self.append)
        new_in_part = self.only_new and (self.rehearses or self.rows is not None)
        _refuse_what_does_not_go_together(
            self.files,
            self.json and self.into_stdout,
            new_in_part,
            self.workers,
        )
        all_paths = self._all_paths()
        if self.against is not None:
            refuse_without_one_file(
                self.against, self.target, len({one.place for one in all_paths}), self.rehearses
            )
        loaded = self._loaded()
        if self.report is not None:
            refuse_report_over(self.report, loaded, all_paths, self.history or beside(self.recipe))
        job = self._job(loaded, all_paths, budget)
        at_once = (self.workers > 1 or self.cluster is not None) and len(all_paths) > 1 and not self.rehearses
        full = self.full if self.full is not None else len(all_paths) == 1
        view = RunView(all_paths, at_once, self.rehearses, self.silent, full)
        with ExitStack() as stack:
            before = self.against and stack.enter_context(kept(self.against, all_paths[0].output))
            try:
                with self._workforce() as workforce:
                    outcomes = run_job(job.with_workforce(workforce), view)
            except Refusal as refusal:  # of the cluster, or of the steps that see all extracts
                if self.json:
                    _print_json(str(self.recipe), [], refusal)
                raise
            finally:
                view.close()
            codes = [outcome.code for outcome in outcomes]
            found, against = self._compared(before or None, outcomes, codes)
        if self.report is not None:
            codes.append(report_run(self.report, loaded, outcomes, found, self.rehearses))
        if self.json:
            _print_json(str(self.recipe), [outcome.account for outcome in outcomes], None, against)
        elif len(all_paths) > 1 and not self.quiet:
            view.show_together(outcomes)
            where = self._where(outcomes)
            where = f" behind the rows of {self.append}" if self.append is not None else where
            show_line(_how_many(outcomes, self.rehearses, where))
            if not full:
                show_line("  What each step did: --summary full")
        if found is not None and not self.silent:
            show(found)
        return worst_of(codes)

    def _compared(
        self, before: str | None, outcomes: list[Outcome], codes: list[int]
    ) -> tuple[Comparison | None, dict[str, Any] | None]:
        """What differs between the output and `--against`, and the same for `--json`; what was delivered stays so."""
        if before is None or self.against is None:
            return None, None
        try:
            found = compared(before, self.against, outcomes)
        except Refusal as refusal:
            codes.append(int(refusal.code))
            if not self.json:
                show_refusal(refusal)
            return None, {"mistakes": mistakes_to_json(refusal)}
        return found, None if found is None else found.to_json()

    def _where(self, outcomes: list[Outcome]) -> str:
        """Where the rows of several extracts are."""
        if self.into_stdout:
            return ""
        if not self.together:
            return f" into {self.to}"
        places = [one.summary.output for one in outcomes if one.summary is not None and one.delivered]
        return f" together into {places[0] if places else self.to}"

    @contextmanager
    def _workforce(self) -> Iterator[Any]:
        """Those who do the work: a cluster where that is said, else threads of this process."""
        if self.cluster is None:
            yield None
            return
        if self.workers > 1:
            raise wrong_recipe(
                "options-conflict",
                "--workers are processes here, and --cluster has workers of its own",
                "Leave out one of them; --cluster local:N starts N processes here.",
            )
        with workforce_of(self.cluster) as workforce:
            yield workforce

    def _all_paths(self) -> list[OutputPaths]:
        files = extracts_of(self.files)
        if self.rehearses:
            behind = None if self.append in (None, "-") else Path(self.append or "")
            return [OutputPaths(file, behind, Path(self.aside) if self.aside else None) for file in files]
        if self.append is not None:
            return plan_appended(files, self.append, self.aside)
        if self.together:
            return plan_combined(files, self.to, self.aside, self.only_new)
        return plan_outputs(files, self.to, self.aside)

    def _loaded(self) -> LinkedRecipe:
        try:
            return LinkedRecipe.load(
                self.recipe, named_values(self.parameters), self.files_under, run_date_of(self.run_date)
            )
        except Refusal as refusal:
            refusal = exchanged(refusal, "run", self.recipe, extracts_of(self.files))
            if self.json:
                _print_json(str(self.recipe), [], refusal)
            raise refusal from None

    def _job(self, loaded: LinkedRecipe, all_paths: list[OutputPaths], budget: int | None) -> Job:
        past, trouble = None, ""
        if not self.rehearses:
            refuse_lost_files(loaded, all_paths, self.history or beside(self.recipe))
            make_folders(all_paths, self.target, self.aside)
            if self.rows is None:
                needed = self.only_new or self.history is not None
                past, trouble = _past_runs(loaded, self.recipe, self.history, needed, self.quiet)
        options = RunOptions(
            rows=self.rows, memory=budget, strict=self.strict, keep_aside=False, only_new=self.only_new
        )
        preview = PREVIEW_ROWS if self.rehearses and not self.silent else 0
        append = self.append is not None
        settings = JobSettings(options, self.rehearses, self.into_stdout, append, preview, trouble)
        return Job(
            loaded,
            self.recipe,
            all_paths,
            settings,
            past,
            self.only_new,
            self.together,
            self.workers,
            partial(prepare_worker, known_passwords()),
        )


def _refuse_two_places(to: str | None, append: str | None) -> None:
    if to is not None and append is not None:
        raise wrong_recipe(
            "options-conflict",
            "--to makes a file anew, and --append goes on with one",
            f"Leave out one of them: --append {append} puts the rows behind those that are there.",
        )


def _past_runs(
    loaded: LinkedRecipe, recipe: Path, path: Path | None, needed: bool, quiet: bool
) -> tuple[RecipeHistory | None, str]:
    """The recipe's history; None where none can be used and nobody asked for one.

    Then, why a run is not noted in a history that is there; empty where none can be made.
    """
    where = path or beside(recipe)
    try:
        return RecipeHistory.open(where, recipe, loaded.digest), ""
    except Refusal as refusal:
        if needed:
            raise
        why, is_there = refusal.mistakes[0].message, os.path.lexists(where)
        if not quiet:
            show_line(f"No history is kept: {why}.")
        return None, why if is_there else ""


def _refuse_what_does_not_go_together(
    files: list[str], two_answers: bool, new_in_part: bool, workers: int
) -> None:
    if two_answers:
        raise wrong_recipe(
            "options-conflict",
            "--json and the table cannot both take standard output",
            "Name a file for the table: --to.",
        )
    if files.count("-") > 1:
        raise wrong_recipe(
            "extract-twice", "standard input can be read once", "Name - once among the extracts."
        )
    if new_in_part:
        raise wrong_recipe(
            "options-conflict",
            "--only-new is about whole extracts that are delivered",
            "Name a place with --to, and leave out --rehearse and --rows.",
        )
    if workers > 1 and "-" in files and len(files) > 1:
        raise wrong_recipe(
            "options-conflict",
            "standard input cannot be shared among --workers",
            "Run it by itself, or leave out --workers.",
        )


def _how_many(outcomes: list[Outcome], rehearse: bool, where: str) -> str:
    """What happened to several extracts."""
    before = sum(outcome.skipped for outcome in outcomes)
    done = sum(outcome.delivered for outcome in outcomes)
    verb = "rehearsed" if rehearse else "delivered"
    message = f"{len(outcomes)} extracts: {done} {verb}{where * (done > 0 and not rehearse)}"
    refused = len(outcomes) - done - before
    message += f", {refused} not {verb}" * bool(refused)
    return message + f", {before} skipped" * bool(before)


def _print_json(
    recipe: str, accounts: list[dict[str, Any]], refusal: Any, against: dict[str, Any] | None = None
) -> None:
    answer: dict[str, Any] = {"recipe": recipe, "extracts": accounts}
    if against is not None:
        answer["against"] = against
    if refusal is not None:
        answer["mistakes"] = mistakes_to_json(refusal)
    show_json(answer)
