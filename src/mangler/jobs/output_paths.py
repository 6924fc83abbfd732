"""Where a run's outputs go: a file, a folder with a file for each extract, or standard output."""

from __future__ import annotations

import os
import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from fnmatch import fnmatchcase
from glob import glob
from pathlib import Path
from typing import TYPE_CHECKING

from mangler.database_address import is_database
from mangler.engine.run.overwriting import NamedFile, files_of, identity_of, refuse_overwriting
from mangler.formats.location import PART_MARK, refuse_unknown_address, split_address
from mangler.formats.registry import ending_of, is_known_ending, is_only_read, parts_of, plain_path
from mangler.language.mistake import Refusal, enumerate_names, file_trouble, reason, wrong_recipe

if TYPE_CHECKING:
    from mangler.engine.run.linked_recipe import LinkedRecipe

STANDARD_INPUT_NAME = "standard-input.csv"
TAR_ENDINGS = (".tar", ".tgz", ".tar.gz", ".tar.bz2", ".tar.xz", ".tar.zst")
ONLY_READ_AS = ".xlsx"
"""The ending of outputs of workbooks of kinds that are read and not written."""
MOST_LISTED = 10
NOT_IN_NAMES = r"[^\w.\- ]+"
ASIDE_NAME = re.compile(r"\.aside\.[a-z]+$")
"""The end of names of files of rows set aside."""


@dataclass(frozen=True)
class OutputPaths:
    """Output and aside file of one extract; None is standard output, or no aside file."""

    extract: str
    output: Path | None
    aside: Path | None
    table: str = ""
    """The address of the database that the rows go to, in the place of a file."""


def extracts_of(files: Sequence[str]) -> list[str]:
    """The extracts that are meant: files as they are named; of a folder all files in it, of a pattern those it fits.

    In a folder, hidden files and Mangler's own are skipped: recipes, and rows set aside. Each file is listed once,
    however it is spelled: together with itself its rows would be there twice.
    """
    found: list[str] = []
    for file in files:
        if file == "-" or is_database(file):
            found.append(file)
        elif os.path.isdir(file):  # noqa: PTH112 - what cannot be reached is reported when its turn comes
            found += _in_folder(file)
        elif _is_pattern(file) and not os.path.exists(file):  # noqa: PTH110
            found += _fitting(file)
        else:
            found.append(file)
    once: dict[str, str] = {}
    for file in found:
        is_file = file != "-" and not is_database(file)
        once.setdefault(os.path.abspath(file) if is_file else file, file)  # noqa: PTH100 - it resolves no link
    return list(once.values())


def _is_pattern(name: str) -> bool:
    return bool(set(name) & set("*?["))


def _fitting(pattern: str) -> list[str]:
    """The files that a pattern fits, and the parts of files: `book.xlsx#*`, `logs/*.zip#*.csv`."""
    files, part = split_address(pattern)
    if not part and PART_MARK in pattern:
        files, _, part = pattern.partition(PART_MARK)
    if part and not _is_pattern(files):
        return _parts_fitting(files, part)
    everything = glob(files, recursive=True)  # noqa: PTH207 - a pattern may start anywhere
    fitting = sorted(path for path in everything if Path(path).is_file())
    if not fitting:
        raise file_trouble(
            "no-extracts",
            f"no file fits {files}",
            "A pattern is written in quotes, with * for anything: 'extracts/*.csv'.",
        )
    return [one for path in fitting for one in (_parts_fitting(path, part) if part else [path])]


def _parts_fitting(file: str, part: str) -> list[str]:
    """The parts of a file that are meant, each as an address."""
    if not _is_pattern(part):
        return [f"{file}{PART_MARK}{part}"]
    names = parts_of(file)
    found = [name for name in names if fnmatchcase(name, part)]
    if not found:
        holds = (
            f"It holds {enumerate_names(names, MOST_LISTED)}."
            if names
            else "It is one table: name it without #."
        )
        raise file_trouble("no-such-part", f"nothing in {file} fits {part}", holds)
    return [f"{file}{PART_MARK}{name}" for name in found]


def file_name_of(extract: str) -> str:
    """The name of an extract's output: that of its file, and of the part of it that is meant."""
    if extract == "-":
        return STANDARD_INPUT_NAME
    file, part = split_address(extract)
    if is_database(extract):
        return f"{re.sub(NOT_IN_NAMES, '-', part or Path(file.partition('?')[0]).stem).strip('-. ') or 'table'}.csv"
    name = Path(file).name
    stem, ending = Path(name).stem, Path(name).suffix.lower()
    if is_only_read(Path(name)):
        name = f"{stem}{ONLY_READ_AS}"
    if name.lower().endswith(TAR_ENDINGS):
        name = stem = name[: -len(next(one for one in TAR_ENDINGS if name.lower().endswith(one)))]
        name += ending_of(extract) * (not part)
    if not part:
        return name
    inner = re.sub(NOT_IN_NAMES, "-", part).strip("-. ") or "part"
    if ending == ".zip" or name == stem:  # the file in an archive has an ending of its own
        return f"{stem}-{inner}"
    return f"{stem}-{inner}{Path(name).suffix}"


def _in_folder(folder: str) -> list[str]:
    try:
        entries = sorted(Path(folder).iterdir())
    except OSError as error:
        raise file_trouble("file-not-read", f"the folder {folder} cannot be read: {reason(error)}") from None
    files = [
        str(path)
        for path in entries
        if path.is_file()
        and not path.name.startswith(".")
        and not path.name.endswith(".mangler")
        and not ASIDE_NAME.search(path.name)
    ]
    if not files:
        raise file_trouble(
            "no-extracts", f"the folder {folder} holds no extracts", "Name the files, or another folder."
        )
    return files


def plan_outputs(extracts: Sequence[str], to: str | None, aside: str | None) -> list[OutputPaths]:
    """A place for each extract. Folders are not made yet; two extracts with one output are refused."""
    if to is None or to == "-":
        if len(extracts) > 1:
            raise wrong_recipe(
                "several-extracts-one-file",
                f"{len(extracts)} extracts cannot go to standard output together",
                "Name a folder: --to clean/",
            )
        return [OutputPaths(extracts[0], None, Path(aside) if aside else None)]
    if is_database(to):
        return _plan_table(extracts, to, aside)
    refuse_unknown_address(to)
    folder = len(extracts) > 1 or to.endswith("/") or Path(to).is_dir()
    if folder and Path(to).exists() and not Path(to).is_dir():
        raise wrong_recipe(
            "several-extracts-one-file",
            f"{to} is a file, and {len(extracts)} extracts need a folder",
            "Name a folder: --to clean/",
        )
    folder_there = to.endswith("/") or Path(to).is_dir()
    if len(extracts) > 1 and not folder_there and is_known_ending(plain_path(Path(to)).suffix):
        raise wrong_recipe(
            "several-extracts-one-file",
            f"{to} is the name of a file, and here are {len(extracts)} extracts",
            f"For one file that holds them all: --to {to} --together. For one file per extract: --to clean/",
        )
    asides = Path(aside) if aside else None
    aside_folder = asides is not None and (len(extracts) > 1 or aside.endswith("/") or asides.is_dir())  # type: ignore[union-attr]
    all_paths = []
    for extract in extracts:
        name = file_name_of(extract)
        output = Path(to) / name if folder else Path(to)
        own = f"{plain_path(output).stem}.aside{ending_of(extract)}"
        set_aside = output.with_name(own) if asides is None else asides / own if aside_folder else asides
        all_paths.append(OutputPaths(extract, output, set_aside))
    _refuse_collisions(all_paths)
    return all_paths


def _plan_table(extracts: Sequence[str], to: str, aside: str | None) -> list[OutputPaths]:
    """A table for all, and a file for the rows set aside of each, where there is a place for them."""
    if aside is None:
        return [OutputPaths(extract, None, None, to) for extract in extracts]
    asides = Path(aside)
    folder = len(extracts) > 1 or aside.endswith("/") or asides.is_dir()
    names = [f"{plain_path(Path(file_name_of(one))).stem}.aside{ending_of(one)}" for one in extracts]
    planned = [
        OutputPaths(extract, None, asides / name if folder else asides, to)
        for extract, name in zip(extracts, names, strict=True)
    ]
    _refuse_collisions(planned)
    return planned


def plan_appended(extracts: Sequence[str], behind: str, aside: str | None) -> list[OutputPaths]:
    """One output that is there, or is made, and a file for the rows set aside of each extract."""
    if is_database(behind):
        raise wrong_recipe(
            "append-not-possible",
            "--append goes on with a file, and this is a database",
            f'Write write table "…" append in the recipe, and --to {behind}',
        )
    if behind == "-" or (Path(behind).exists() and not Path(behind).is_file() and not Path(behind).is_dir()):
        raise wrong_recipe(
            "append-not-possible",
            f"--append {behind}: rows are put behind those of a file",
            "Name a file, or leave out --append.",
        )
    return _plan_one(extracts, behind, aside, "--append goes on with one file")


def plan_combined(
    extracts: Sequence[str], to: str | None, aside: str | None, only_new: bool
) -> list[OutputPaths]:
    """One output for all, and a file for the rows set aside of each."""
    if to is not None and is_database(to):
        return _plan_table(extracts, to, aside)
    if only_new and to is not None and to != "-" and Path(to).is_file():
        raise wrong_recipe(
            "file-exists",
            f"{to} is there already, and only what is new would be in it",
            f"To add what is new to it: --append {to}. Or leave out --only-new: then it is made from all extracts.",
        )
    return _plan_one(extracts, to, aside, "--together writes one file")


def _plan_one(extracts: Sequence[str], to: str | None, aside: str | None, why: str) -> list[OutputPaths]:
    refuse_unknown_address(to or "")
    output = None if to is None or to == "-" else Path(to)
    if output is not None and ((to is not None and to.endswith("/")) or output.is_dir()):
        raise wrong_recipe(
            "path-is-folder",
            f"{to} is a folder, and {why}",
            f"Name the file: {why.split()[0].replace('together', 'to')} {to.rstrip('/') if to else ''}/all.csv",
        )
    asides = Path(aside) if aside else None
    if asides is not None and len(extracts) > 1 and asides.exists() and not asides.is_dir():
        raise wrong_recipe(
            "several-extracts-one-file",
            f"{aside} is a file, and each extract needs one for its rows set aside",
            "Name a folder.",
        )
    all_paths = []
    for extract, name in zip(extracts, _short_names(extracts), strict=True):
        own = f"{name}.aside{ending_of(extract)}"
        own = f"{plain_path(output).stem}.{own}" if output is not None else own
        set_aside = asides / own if asides is not None else None if output is None else output.with_name(own)
        all_paths.append(OutputPaths(extract, output, set_aside))
    _refuse_collisions([OutputPaths(paths.extract, None, paths.aside) for paths in all_paths])
    return all_paths


def _short_names(extracts: Sequence[str]) -> list[str]:
    """A name for each extract: that of its file, with its folder's before it where two have the same."""
    paths = [
        Path(split_address(extract)[0]).with_name(name) if extract != "-" else Path(name)
        for extract, name in zip(extracts, map(file_name_of, extracts), strict=True)
    ]
    stems = [plain_path(path).stem for path in paths]
    counts = Counter(stems)
    return [
        stem if counts[stem] == 1 else f"{path.absolute().parent.name}-{stem}"
        for path, stem in zip(paths, stems, strict=True)
    ]


def refuse_lost_files(recipe: LinkedRecipe, all_paths: Sequence[OutputPaths], history: Path | None) -> None:
    """Refuses outputs that a command reads as well, or writes twice: what was there would be lost."""
    read: list[NamedFile] = list(files_of(recipe.parsed))
    extract = "the extract itself" if len(all_paths) == 1 else "an extract of this command"
    read += [(paths.extract, extract) for paths in all_paths]
    if history is not None:
        read += [(f"{history}{ending}", "the history") for ending in ("", "-journal", "-wal", "-shm")]
    written: dict[Path, str] = {}
    for paths in all_paths:
        if paths.output is not None:
            written[paths.output] = "the output"
    for paths in all_paths:
        if paths.aside is not None:
            written.setdefault(paths.aside, "the file of rows set aside")
            if paths.aside == paths.output and identity_of(paths.aside) is not None:
                raise wrong_recipe(
                    "file-would-be-lost",
                    f"{paths.aside} is to be the output and the file of rows set aside",
                    "Name two files.",
                )
    refuse_overwriting(written.items(), read)
    if history is not None:
        others = [one for one in read if one[1] != "the history"]
        refuse_overwriting([(history, "the history")], others)


def exchanged(refusal: Refusal, command: str, recipe: Path, files: Sequence[str]) -> Refusal:
    """What is said of a recipe that cannot be read: where it is an extract, which way round the two go."""
    other = next((file for file in files if file.endswith(".mangler")), None)
    if other is None or recipe.suffix == ".mangler":
        return refusal
    return wrong_recipe(
        "not-a-recipe",
        f"{recipe} is not a recipe, and {other} seems to be one",
        f"The recipe comes first: mangler {command} {other} {recipe}",
    )


def make_folders(all_paths: Sequence[OutputPaths], to: str | None, aside: str | None) -> None:
    """Makes the folders that outputs need; their parents must be there."""
    for wanted in (to, aside):
        if wanted is None or wanted == "-":
            continue
        folder = Path(wanted)
        if not any(
            path is not None and path.parent == folder for p in all_paths for path in (p.output, p.aside)
        ):
            continue
        if folder.is_dir():
            continue
        if not folder.parent.is_dir():
            raise file_trouble(
                "no-such-folder",
                f"the folder {wanted} cannot be made: {folder.parent} does not exist",
                "Make its parent first.",
            )
        try:
            folder.mkdir()
        except OSError as error:
            raise file_trouble(
                "file-not-written", f"the folder {wanted} cannot be made: {reason(error)}"
            ) from None


def _refuse_collisions(all_paths: Sequence[OutputPaths]) -> None:
    seen: dict[Path, str] = {}
    for paths in all_paths:
        for path in (paths.output, paths.aside):
            if path is None or identity_of(path) is None:
                continue
            if path in seen:
                raise wrong_recipe(
                    "file-would-be-lost",
                    f"{seen[path]} and {paths.extract} would both be written to {path}",
                    "Run them one by one, each --to a file of its own.",
                )
            seen[path] = paths.extract
