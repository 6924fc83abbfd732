"""A recipe as a program uses it: `Recipe.load(path).run(extract)`."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from hashlib import blake2b
from pathlib import Path
from time import perf_counter
from typing import Any

from mangler.engine.destination import DelimitedOutput, Destination, InMemory
from mangler.engine.overwriting import files_of, refuse_overwriting, refuse_references_outside
from mangler.engine.plan import plan
from mangler.engine.recording import Recorder
from mangler.engine.running import Run, RunOptions, examples_told, rows_told, title_of
from mangler.engine.summary import Summary
from mangler.formats.delimited.aside import AsideFile, AsideRow
from mangler.formats.delimited.extract import open_extract
from mangler.language.linking import link
from mangler.language.mistake import extract_does_not_fit
from mangler.language.recipe import ParsedRecipe, load_source, parse_recipe
from mangler.language.source import Source
from mangler.language.source_text import source_of
from mangler.steps import VERBS
from mangler.steps import read as read_verb
from mangler.steps import write as write_verb
from mangler.table.batch import Batch
from mangler.table.schema import Column, Schema


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
class Recipe:
    """A recipe that was read without mistakes."""

    parsed: ParsedRecipe

    @classmethod
    def load(
        cls,
        path: str | Path,
        parameters: Mapping[str, str] | None = None,
        files_under: str | Path | None = None,
    ) -> Recipe:
        """Reads a recipe file and those it names; all mistakes are raised together as a Refusal.

        `parameters` are values from outside for the recipe's own, as texts. With `files_under` every file that the
        recipe names must be under that folder.
        """
        return cls._linked(load_source(Path(path)), parameters, files_under)

    @classmethod
    def parse(
        cls,
        text: str,
        name: str = "recipe",
        parameters: Mapping[str, str] | None = None,
        files_under: str | Path | None = None,
    ) -> Recipe:
        """Reads a recipe's text. Files that it names are found relative to `name`."""
        return cls._linked(source_of(name, text), parameters, files_under)

    @classmethod
    def _linked(
        cls, source: Source, parameters: Mapping[str, str] | None, files_under: str | Path | None
    ) -> Recipe:
        folder = None if files_under is None else Path(files_under)
        linked = link(parse_recipe(source, VERBS), VERBS, is_function, parameters, folder)
        refuse_references_outside(linked.statements, folder)
        return cls(linked)

    @property
    def digest(self) -> str:
        """The digest of its own text and of those that it includes or imports, as they were read."""
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
    ) -> Result:
        """Cleans one extract. Into the file `to`; without it, into a table of the result.

        Rows set aside go to the file `aside` when it is given, and are in the result always. Raises a Refusal
        when the extract does not fit or a file makes trouble; then nothing is written.
        """
        options = options or RunOptions()
        if to is not None:
            return self.clean(str(extract), DelimitedOutput(Path(to)), _path(aside), options)
        memory = InMemory()
        result = self.clean(str(extract), memory, _path(aside), options)
        return Result(result.summary, result.rows_aside, result.preview, result.columns, memory.table)

    def clean(
        self,
        extract: str,
        destination: Destination,
        aside: Path | None,
        options: RunOptions,
        needs_aside_file: bool = False,
    ) -> Result:
        """Cleans one extract into a destination. `needs_aside_file`: rows set aside without a file are a failure."""
        cleaned = self.prepare(extract, destination, aside, options, needs_aside_file)
        deliver([cleaned], destination)
        return cleaned.result

    def prepare(
        self,
        extract: str,
        destination: Destination,
        aside: Path | None,
        options: RunOptions,
        needs_aside_file: bool = False,
    ) -> Cleaned:
        """Cleans one extract up to where its output would be put in its place."""
        output = getattr(destination, "path", None)
        written = [(output, "the output"), (aside, "the file of rows set aside")]
        refuse_overwriting(
            [(path, what) for path, what in written if path is not None],
            [(extract, "the extract itself"), *files_of(self.parsed)],
        )
        started = perf_counter()
        settings = read_verb.settings(self.parsed.only("read"))
        opened = open_extract(
            extract, settings, options.bytes_at_once, options.rows, options.recorder is not None
        )
        aside_file = AsideFile(aside, opened.name, opened.names, opened.dialect, opened.from_aside)
        try:
            schema = Schema.of_text(opened.names)
            planned = plan(self.parsed, schema, opened.hint)
            write = self.parsed.only("write")
            place = write.place_of("encoding") if write else None

            def open_with(columns: Schema) -> None:
                destination.open(opened, columns, write_verb.settings(write), place)

            run = Run(self.parsed, opened, planned, destination, open_with, aside_file, options)
            run.read_all()
            summary = run.account()
            run.refuse_if_strict()
            if needs_aside_file and summary.balance.set_aside and aside is None:
                raise extract_does_not_fit(
                    f"{opened.name}: {rows_told(summary.balance.set_aside)} must be set aside, and there is no file"
                    f" for them.\n{examples_told(summary.aside_examples)}",
                    "Name one with --aside PATH.",
                )
            summary.seconds = perf_counter() - started
            result = Result(summary, run.rows_aside, run.preview, run.planned.schema.columns)
            return Cleaned(result, destination, aside_file, opened.digest(), options.recorder)
        except BaseException:
            destination.discard()
            aside_file.discard()
            raise
        finally:
            opened.close()


@dataclass(frozen=True)
class Cleaned:
    """An extract that was cleaned without fault, and is not delivered yet."""

    result: Result
    destination: Destination
    aside_file: AsideFile
    digest: str | None
    recorder: Recorder | None


def deliver(all_cleaned: Sequence[Cleaned], destination: Destination) -> None:
    """Puts what came of extracts in its place: the files of rows set aside, then the output that holds them all."""
    try:
        for cleaned in all_cleaned:
            if cleaned.recorder is not None:
                cleaned.recorder.delivering(cleaned.result.summary, cleaned.digest, destination.put())
        for cleaned in all_cleaned:
            cleaned.aside_file.commit()
        destination.commit()
        for cleaned in all_cleaned:
            if cleaned.recorder is not None:
                cleaned.recorder.delivered()
    finally:
        # After a commit these do nothing; before it they leave everything as it was.
        destination.discard()
        for cleaned in all_cleaned:
            cleaned.destination.discard()
            cleaned.aside_file.discard()


def is_function(name: str) -> bool:
    """Whether the language has a function of this name; they are loaded only to be asked."""
    from mangler.expressions.registry import FUNCTIONS

    return name in FUNCTIONS


def _path(path: str | Path | None) -> Path | None:
    return None if path is None else Path(path)
