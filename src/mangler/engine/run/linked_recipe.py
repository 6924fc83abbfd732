"""A recipe as a program uses it: `Recipe.load(path).run(extract)`."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import date
from hashlib import blake2b
from pathlib import Path
from time import perf_counter
from typing import TYPE_CHECKING, Any

from mangler.addresses import is_elsewhere, is_remote, without_password
from mangler.engine.plan.plan import go_on, steps_of
from mangler.engine.run.acceptance import refuse_if_strict, require_acceptable, require_all_written
from mangler.engine.run.account import title_of
from mangler.engine.run.destination import FileOutput, InMemory
from mangler.engine.run.executor import Executor
from mangler.engine.run.memory import half_of_the_machine
from mangler.engine.run.options import RunOptions
from mangler.engine.run.overwriting import files_of, refuse_overwriting, refuse_references_outside
from mangler.engine.run.recording import Recorder
from mangler.engine.run.row_limit import refuse_beyond
from mangler.engine.run.summary import Summary, examples_text, rows_text
from mangler.formats.aside import AsideFile, AsideRow
from mangler.formats.contract import ReadRequest, Sink
from mangler.formats.contract import Source as OpenSource
from mangler.formats.registry import open_source
from mangler.language.linking import link
from mangler.language.mistake import extract_does_not_fit
from mangler.language.recipe import ParsedRecipe, load_source, parse_recipe
from mangler.language.source import Source
from mangler.language.source_text import source_of
from mangler.late_dataclass import dataclass
from mangler.steps import VERBS
from mangler.steps import read as read_verb
from mangler.steps import write as write_verb
from mangler.table.batch import Batch
from mangler.table.schema import Column, Schema

if TYPE_CHECKING:
    from mangler.engine.run.spread import Spread
    from mangler.formats.dividing import Helpers


@dataclass(frozen=True)
class Result:
    """`table` holds the cleaned rows when they were not written to a file, else None."""

    summary: Summary
    rows_aside: list[AsideRow]
    preview: list[Batch]
    columns: tuple[Column, ...]
    """The columns that came out."""
    table: Any = None


@dataclass(frozen=True)
class LinkedRecipe:
    """A recipe that was read without mistakes."""

    parsed: ParsedRecipe

    @classmethod
    def load(
        cls,
        path: str | Path,
        parameters: Mapping[str, str] | None = None,
        files_under: str | Path | None = None,
        run_date: date | None = None,
    ) -> LinkedRecipe:
        """Reads a recipe file and those it names; all mistakes are raised together as a Refusal.

        `parameters` are values from outside for the recipe's own, as texts. With `files_under` every file that the
        recipe names must be under that folder. `run_date` is the day of the run, today for None.
        """
        return cls._linked(load_source(Path(path)), parameters, files_under, run_date)

    @classmethod
    def parse(
        cls,
        text: str,
        name: str = "recipe",
        parameters: Mapping[str, str] | None = None,
        files_under: str | Path | None = None,
        run_date: date | None = None,
    ) -> LinkedRecipe:
        """Reads a recipe's text. Files that it names are found relative to `name`."""
        return cls._linked(source_of(name, text), parameters, files_under, run_date)

    @classmethod
    def _linked(
        cls,
        source: Source,
        parameters: Mapping[str, str] | None,
        files_under: str | Path | None,
        run_date: date | None,
    ) -> LinkedRecipe:
        folder = None if files_under is None else Path(files_under)
        linked = link(parse_recipe(source, VERBS), VERBS, is_function, parameters, folder, run_date)
        refuse_references_outside(linked.statements, folder)
        return cls(linked)

    @property
    def digest(self) -> str:
        """The digest of its own text and of the texts that it includes or imports, as they were read."""
        digest = blake2b(digest_size=16)
        for source in (self.parsed.source, *self.parsed.others):
            digest.update(source.text.encode())
            digest.update(b"\0")
        return digest.hexdigest()

    @property
    def title(self) -> str:
        return title_of(self.parsed)

    def run(
        self,
        extract: str | Path,
        to: str | Path | None = None,
        aside: str | Path | None = None,
        options: RunOptions | None = None,
        append: bool = False,
    ) -> Result:
        """Cleans one extract. Into the file `to`, or behind its rows; without it, into a table of the result.

        Rows set aside go to the file `aside` when it is given, and are in the result always. Raises a Refusal
        when the extract does not fit or a file makes trouble; then nothing is written.
        """
        options = options or RunOptions()
        source = without_password(str(extract))
        if to is not None:
            place = without_password(str(to))
            address = place if is_elsewhere(place) else ""
            output = FileOutput(None if address else Path(to), behind=append, address=address)
            return self.clean(source, output, _path(aside), options)
        memory = InMemory()
        result = self.clean(source, memory, _path(aside), options)
        return Result(result.summary, result.rows_aside, result.preview, result.columns, memory.table)

    def clean(
        self,
        extract: str,
        sink: Sink,
        aside: Path | None,
        options: RunOptions,
        needs_aside_file: bool = False,
    ) -> Result:
        """Cleans one extract into a sink. `needs_aside_file`: rows set aside without a file are a failure."""
        cleaned = self.prepare(extract, sink, aside, options, needs_aside_file)
        deliver([cleaned], sink)
        return cleaned.result

    def prepare(
        self,
        extract: str,
        sink: Sink,
        aside: Path | None,
        options: RunOptions,
        needs_aside_file: bool = False,
    ) -> PreparedRun:
        """Cleans one extract up to where its output would be put in its place."""
        address = sink.address if isinstance(sink, FileOutput) and is_remote(sink.address) else None
        written = [(sink.path or address, "the output"), (aside, "the file of rows set aside")]
        refuse_overwriting(
            [(path, what) for path, what in written if path is not None],
            [(extract, "the extract itself"), *files_of(self.parsed)],
        )
        started = perf_counter()
        request = self._request(extract, options)
        source = open_source(extract, request)
        aside_file = source.aside_file(aside)
        try:
            steps = steps_of(self.parsed)[: options.first_steps]
            planned = go_on(self.parsed, steps, source.schema, source.explain_missing)
            write = write_verb.settings(self.parsed.only("write"))

            def open_with(columns: Schema) -> None:
                sink.open(columns, write, source)

            self._refuse_too_many(extract, source, sink, request, options)
            spread = self._spread(extract, request, sink, options)
            executor = Executor(self.parsed, source, sink, open_with, aside_file, options, spread=spread)
            executor.run(planned)
            account = executor.account
            require_acceptable(self.parsed, account, options.rows is None)
            warnings = options.watcher.warnings() if options.watcher is not None else []
            warnings += sink.warnings()
            summary = account.close(
                warnings, options.rows, sink.remarks(), empty=options.delivered is not None
            )
            require_all_written(summary, sink.rows_written)
            refuse_if_strict(summary, options.strict)
            if needs_aside_file and summary.balance.set_aside and aside is None:
                raise extract_does_not_fit(
                    "no-aside-file",
                    f"{source.name}: {rows_text(summary.balance.set_aside)} must be set aside, and there is no file"
                    f" for them.\n{examples_text(summary.aside_examples)}",
                    "Name one with --aside PATH.",
                )
            summary.newest = source.newest
            summary.stop_clock(perf_counter() - started)
            result = Result(summary, executor.rows_aside, executor.preview, executor.schema.columns)
            return PreparedRun(result, sink, aside_file, source.digest(), options.recorder)
        except BaseException:
            sink.discard()
            aside_file.discard()
            raise
        finally:
            source.close()

    def _request(self, extract: str, options: RunOptions) -> ReadRequest:
        """How an extract is opened for a run."""
        return ReadRequest(
            read_verb.settings(self.parsed.only("read")),
            options.bytes_at_once,
            options.rows,
            options.recorder is not None,
            options.memory or half_of_the_machine(),
            helpers=_helpers(options, extract),
            only_new=options.only_new,
            delivered=options.delivered,
        )

    def _spread(self, extract: str, request: ReadRequest, sink: Sink, options: RunOptions) -> Spread | None:
        if options.workforce is None:
            return None
        from mangler.engine.run.spread import Spread

        return Spread(options.workforce, self.parsed, extract, request, sink, options)

    def _refuse_too_many(
        self, extract: str, source: OpenSource, sink: Sink, request: ReadRequest, options: RunOptions
    ) -> None:
        """Where the output has a place for so many rows only, they are counted before the first is written."""
        if not isinstance(sink, FileOutput):
            return
        most = sink.most_rows(source, write_verb.settings(self.parsed.only("write")))
        if most is not None:
            once_more = replace(request, digest=False, helpers=None)
            refuse_beyond(most, self.parsed, extract, lambda: open_source(extract, once_more), options)


@dataclass(frozen=True)
class PreparedRun:
    """An extract that was cleaned without fault, and is not delivered yet."""

    result: Result
    sink: Sink
    aside_file: AsideFile
    digest: str | None
    recorder: Recorder | None


def deliver(all_cleaned: Sequence[PreparedRun], sink: Sink) -> None:
    """Puts what happened to extracts in its place: the files of rows set aside, then the output that holds them all."""
    try:
        for cleaned in all_cleaned:
            if cleaned.recorder is not None:
                cleaned.recorder.delivering(cleaned.result.summary, cleaned.digest, sink.pending())
        for cleaned in all_cleaned:
            cleaned.aside_file.commit()
        sink.commit()
        for cleaned in all_cleaned:
            if cleaned.recorder is not None:
                cleaned.recorder.delivered()
    finally:
        # After a commit these do nothing; before it they leave everything as it was.
        sink.discard()
        for cleaned in all_cleaned:
            cleaned.sink.discard()
            cleaned.aside_file.discard()


def is_function(name: str) -> bool:
    """Whether the language has a function of this name; they are loaded only to be asked."""
    from mangler.expressions.registry import FUNCTIONS

    return name in FUNCTIONS


def _helpers(options: RunOptions, extract: str) -> Helpers | None:
    if options.workforce is None:
        return None
    from mangler.engine.run.spread import helpers_of

    return helpers_of(options, extract)


def _path(path: str | Path | None) -> Path | None:
    return None if path is None else Path(path)
