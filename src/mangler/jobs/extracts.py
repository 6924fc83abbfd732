"""Which extracts are meant by the words of a command: files, folders, patterns, addresses, parts of files."""

from __future__ import annotations

import os
import re
from collections.abc import Sequence
from fnmatch import fnmatchcase
from glob import glob
from pathlib import Path

from mangler.addresses import is_database, is_elsewhere, is_remote, name_of
from mangler.formats.location import PART_MARK, split_address
from mangler.formats.registry import ending_of, is_only_read, parts_of
from mangler.language.mistake import enumerate_names, file_trouble, reason

STANDARD_INPUT_NAME = "standard-input.csv"
TAR_ENDINGS = (".tar", ".tgz", ".tar.gz", ".tar.bz2", ".tar.xz", ".tar.zst")
ONLY_READ_AS = ".xlsx"
"""The ending of outputs of workbooks of kinds that are read and not written."""
MOST_LISTED = 10
NOT_IN_NAMES = r"[^\w.\- ]+"
ASIDE_NAME = re.compile(r"\.aside\.[a-z]+$")
"""The end of names of files of rows set aside."""


def extracts_of(files: Sequence[str]) -> list[str]:
    """The extracts that are meant: files as they are named; of a folder all files in it, of a pattern those it fits.

    In a folder, hidden files and Mangler's own are skipped: recipes, and rows set aside. Each file is listed once,
    however it is spelled: together with itself its rows would be there twice.
    """
    found: list[str] = []
    for file in files:
        if file == "-" or is_database(file):
            found.append(file)
        elif is_remote(file):
            found += _elsewhere(file)
        elif os.path.isdir(file):  # noqa: PTH112 - what cannot be reached is reported when its turn comes
            found += _in_folder(file)
        elif _is_pattern(file) and not os.path.exists(file):  # noqa: PTH110
            found += _fitting(file)
        else:
            found.append(file)
    once: dict[str, str] = {}
    for file in found:
        is_file = file != "-" and not is_elsewhere(file)
        once.setdefault(os.path.abspath(file) if is_file else file, file)  # noqa: PTH100 - it resolves no link
    return list(once.values())


def _elsewhere(address: str) -> list[str]:
    """The files that are not on this machine: one, those of a folder with / at its end, those that a pattern fits."""
    file, part = split_address(address)
    from mangler.formats.remote.listing import files_in, fitting, is_pattern

    if file.endswith("/"):
        files = [one for one in files_in(file) if _is_extract(name_of(one))]
        if not files:
            raise file_trouble(
                "no-extracts", f"the folder {file} holds no extracts", "Name the files, or another folder."
            )
    elif is_pattern(file):
        files = fitting(file)
        if not files:
            raise file_trouble(
                "no-extracts", f"no file fits {file}", "A pattern is written in quotes, with * for anything."
            )
    else:
        files = [file]
    return [one for path in files for one in (_parts_fitting(path, part) if part else [path])]


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
    name = name_of(file) if is_remote(file) else Path(file).name
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
    files = [str(path) for path in entries if path.is_file() and _is_extract(path.name)]
    if not files:
        raise file_trouble(
            "no-extracts", f"the folder {folder} holds no extracts", "Name the files, or another folder."
        )
    return files


def _is_extract(name: str) -> bool:
    """Whether a file of a folder is meant: hidden files and Mangler's own are not."""
    return not name.startswith(".") and not name.endswith(".mangler") and not ASIDE_NAME.search(name)
