"""What a command writes may not be what it reads, under whatever name."""

from __future__ import annotations

import os
import stat
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import TypeAlias

from mangler.addresses import file_of, is_elsewhere, is_remote, without_password
from mangler.file_names import readable
from mangler.formats.location import split_address
from mangler.language.linking import refuse_outside
from mangler.language.mistake import file_trouble, wrong_recipe
from mangler.language.recipe import ParsedRecipe
from mangler.language.source import SourceSpan
from mangler.language.statement import Statement
from mangler.steps import VERBS

NamedFile: TypeAlias = tuple[str | Path, str]
"""A path, and what the file is, as part of a sentence."""
Identity: TypeAlias = tuple[object, ...]


def refuse_overwriting(written: Iterable[NamedFile], read: Iterable[NamedFile]) -> None:
    """Refuses a file that is to be written and is read too, or is to be written twice; links are followed."""
    taken: dict[Identity, str] = {}
    for address, what in read:
        if (identity := identity_of(split_address(str(address))[0])) is not None:
            taken.setdefault(identity, f"is {what}")
    for path, what in written:
        identity = identity_of(path)
        if identity is None:
            continue
        if identity in taken:
            raise wrong_recipe(
                "file-would-be-lost",
                f"{path} {taken[identity]}",
                f"Let {what} be another file: this one would be lost.",
            )
        taken[identity] = f"is to be {what} too"


def identity_of(path: str | Path) -> Identity | None:
    """What is the same for all names of a file; None where nothing can be lost, as for a device or a pipe."""
    if path == "-":
        return None
    if is_remote(str(path)):
        return ("elsewhere", str(path))
    if "\0" in str(path):
        raise file_trouble(
            "no-such-file-name", f"{readable(path)!r} holds a NUL, and no file has a name like this"
        )
    try:
        found = Path(path).stat()
    except OSError:
        return (os.path.realpath(path),)
    return (found.st_dev, found.st_ino) if stat.S_ISREG(found.st_mode) else None


def files_of(recipe: ParsedRecipe) -> Iterator[NamedFile]:
    """The files that a run of a recipe reads besides its extract."""
    yield recipe.source.name, "the recipe"
    for source in recipe.others:
        yield source.name, "a file that the recipe includes or imports"
    for statement, path, _ in _references(recipe.statements):
        yield path, f"a file that the recipe reads in line {statement.label}"


def _references(statements: Iterable[Statement]) -> Iterator[tuple[Statement, Path | str, SourceSpan]]:
    """The files that steps look into, each with where it is named."""
    for statement in statements:
        key = VERBS.declaration(statement.verb).reads_file
        named = statement.text(key) if key else None
        if named is not None:
            yield statement, _beside(statement, named.value), named.span


def _beside(statement: Statement, named: str) -> Path | str:
    """A file that is named relative to the recipe; an address as it is."""
    return named if is_remote(named) else Path(statement.span.source.name).parent / named


def refuse_references_outside(statements: Iterable[Statement], folder: Path | None) -> None:
    """Refuses steps that look into a file which is not under the folder, where there is one."""
    for statement, path, span in _references(statements):
        named = statement.text(VERBS.declaration(statement.verb).reads_file)
        if folder is not None and named is not None and is_elsewhere(named.value):
            file = None if is_remote(named.value) else file_of(named.value)
            if file is None:
                what = "is not on this machine" if is_remote(named.value) else "is a database"
                raise wrong_recipe(
                    "file-not-allowed",
                    f"{without_password(named.value)} {what}, and --files-under allows only files under {folder}",
                    "Leave out --files-under, if the recipe is to be trusted with it.",
                )
            path = Path(statement.span.source.name).parent / file
        refuse_outside(Path(path), folder, span)
