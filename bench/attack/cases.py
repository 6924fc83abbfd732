"""One attack: a case is run, and what is wrong with how it went is named."""

from __future__ import annotations

import csv
import io
import signal
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from random import Random
from typing import Any

from bench.attack.extracts import extract
from bench.attack.recipes import recipe
from bench.processes import program
from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.run.options import RunOptions
from mangler.formats.registry import open_source
from mangler.language.mistake import Refusal

SECONDS = 10
PLAIN = LinkedRecipe.parse("mangler 1")
EVERY = 50
"""Of so many cases one goes through the installed program as well."""


class HangError(BaseException):
    """The case takes too long."""


@contextmanager
def in_time(seconds: int = SECONDS) -> Iterator[None]:
    def end(number: int, frame: Any) -> None:  # noqa: ARG001
        raise HangError

    signal.signal(signal.SIGALRM, end)
    signal.alarm(seconds)
    try:
        yield
    finally:
        signal.alarm(0)


REFUSED, FINE = "refused", "fine"
"""How a case may end."""


def attack(kind: str, seed: int, number: int, folder: Path, sources: list[bytes]) -> str:
    """Runs one case: `fine` where it was cleaned, `refused` where it was refused, else `kind of fault: detail`."""
    random = Random(f"{kind} {seed} {number}")
    path = folder / "case.csv"
    path.write_bytes(extract(random, sources))
    try:
        with in_time():
            found = (_extract_case if kind == "extracts" else _recipe_case)(random, path, folder)
        if not found and number % EVERY == 0:
            found = _through_the_program(path, folder)
        return found or FINE
    except HangError:
        return "hang: more than 10 s"
    except Refusal as refusal:
        return "uneven: rows" if "do not balance" in str(refusal) else REFUSED
    except Exception as error:
        return f"traceback: {type(error).__name__}: {str(error)[:120]}"


def _extract_case(random: Random, path: Path, folder: Path) -> str:
    (folder / "r.mangler").write_text("mangler 1\ntrim *\n")
    block = random.choice((64, 1000, 1 << 20))
    result = PLAIN.run(path, options=RunOptions(partition_size=block))
    found = _uneven(result) or _differs(path, result)
    if found:
        return found
    written = PLAIN.run(path, folder / "out.csv", folder / "out.aside.csv")
    again = PLAIN.run(folder / "out.csv") if written.summary.balance.delivered else None
    if again is not None and again.table.num_rows != written.summary.balance.delivered:
        return f"lost: {written.summary.balance.delivered} delivered, {again.table.num_rows} read back"
    return ""


def _recipe_case(random: Random, path: Path, folder: Path) -> str:
    try:
        opened = open_source(str(path))
        names = list(opened.schema.names)
        opened.close()
    except Refusal:
        names = ["a", "b"]
    text = recipe(random, names)
    (folder / "r.mangler").write_text(text)
    result = LinkedRecipe.parse(text, str(folder / "r.mangler")).run(
        path, options=RunOptions(partition_size=random.choice((200, 1 << 20)))
    )
    return _uneven(result)


def _uneven(result: Any) -> str:
    return "" if result.summary.balance.is_even else "uneven: rows"


def _differs(path: Path, result: Any) -> str:
    """Where the file is unambiguous: the cells that the csv module of the standard library reads otherwise."""
    content = path.read_bytes()
    delimiter = result.summary.detected.get("delimiter", "")
    marks = {"tab": "\t", "space": " ", "unit separator (1F)": "\x1f"}
    mark = marks.get(delimiter, delimiter.strip('"'))
    try:
        text = content.decode("utf-8")
    except UnicodeDecodeError:
        return ""
    if "\r" in text or "\0" in text or len(mark) != 1 or text.startswith("\ufeff"):
        return ""
    csv.field_size_limit(1 << 30)
    try:
        rows = [row for row in csv.reader(io.StringIO(text, newline=""), delimiter=mark, strict=True) if row]
    except csv.Error:
        return ""
    if len({len(row) for row in rows}) != 1 or len(rows) < 2 or len(rows[0]) < 2 or rows[0][0] == "_file":
        return ""
    ours = [[cell or "" for cell in column] for column in result.table.to_pydict().values()]
    theirs = [list(column) for column in zip(*rows[1:], strict=True)]
    return "" if ours == theirs else "cells: not those of the csv module"


def _through_the_program(path: Path, folder: Path) -> str:
    words = ["run", str(folder / "r.mangler"), str(path), "--to", str(folder / "program.csv"), "--quiet"]
    done = subprocess.run([program("mangler"), *words], capture_output=True, timeout=60, check=False)
    if done.returncode not in (0, 1, 2, 3) or b"Traceback" in done.stderr:
        return f"traceback: the program ends with {done.returncode}: {done.stderr[:200]!r}"
    return ""
