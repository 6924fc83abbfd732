"""Where a run's outputs go: a file, a folder with a file for each extract, or standard output."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from mangler.addresses import is_database, is_elsewhere, is_remote, name_of
from mangler.engine.run.overwriting import NamedFile, files_of, identity_of, refuse_overwriting
from mangler.formats.location import split_address
from mangler.formats.registry import ending_of, is_known_ending, plain_path
from mangler.jobs.extracts import file_name_of
from mangler.language.mistake import Refusal, file_trouble, reason, wrong_recipe
from mangler.late_dataclass import dataclass

if TYPE_CHECKING:
    from mangler.engine.run.linked_recipe import LinkedRecipe


@dataclass(frozen=True)
class OutputPaths:
    """Output and aside file of one extract; None is standard output, or no aside file."""

    extract: str
    output: Path | None
    aside: Path | None
    address: str = ""
    """Of the database, or of the file that is not on this machine, that the rows go to in the place of a file."""

    @property
    def place(self) -> str:
        """Where the rows go; empty for standard output."""
        return self.address or ("" if self.output is None else str(self.output))


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
    if is_elsewhere(to):
        return _plan_elsewhere(extracts, to, aside)
    folder = len(extracts) > 1 or to.endswith("/") or Path(to).is_dir()
    if folder and Path(to).exists() and not Path(to).is_dir():
        raise wrong_recipe(
            "several-extracts-one-file",
            f"{to} is a file, and {len(extracts)} extracts need a folder",
            "Name a folder: --to clean/",
        )
    _refuse_one_file(extracts, to, to.endswith("/") or Path(to).is_dir())
    _refuse_aside_elsewhere(aside)
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


def _plan_elsewhere(extracts: Sequence[str], to: str, aside: str | None) -> list[OutputPaths]:
    """A table for all, or a file elsewhere for each; files for the rows set aside, where there is a place for them."""
    places = [to] * len(extracts)
    _refuse_unknown(to)
    if is_remote(to) and (len(extracts) > 1 or to.endswith("/")):
        _refuse_one_file(extracts, to, to.endswith("/"))
        places = [f"{to.rstrip('/')}/{file_name_of(one)}" for one in extracts]
    asides: Sequence[Path | None] = [None] * len(extracts)
    if aside is not None:
        _refuse_aside_elsewhere(aside)
        folder = len(extracts) > 1 or aside.endswith("/") or Path(aside).is_dir()
        names = [f"{plain_path(Path(file_name_of(one))).stem}.aside{ending_of(one)}" for one in extracts]
        asides = [Path(aside) / name if folder else Path(aside) for name in names]
    planned = [
        OutputPaths(extract, None, own, place)
        for extract, own, place in zip(extracts, asides, places, strict=True)
    ]
    _refuse_collisions(planned)
    return planned


def _refuse_one_file(extracts: Sequence[str], to: str, is_folder: bool) -> None:
    """Several extracts do not go to one file by themselves."""
    if len(extracts) > 1 and not is_folder and is_known_ending(plain_path(Path(to)).suffix):
        raise wrong_recipe(
            "several-extracts-one-file",
            f"{to} is the name of a file, and here are {len(extracts)} extracts",
            f"For one file that holds them all: --to {to} --together. For one file per extract: --to clean/",
        )


def _refuse_unknown(to: str) -> None:
    if is_remote(to):
        from mangler.formats.remote.places import refuse_unknown

        refuse_unknown(to)


def _refuse_aside_elsewhere(aside: str | None) -> None:
    if aside is not None and is_elsewhere(aside):
        raise wrong_recipe(
            "aside-elsewhere",
            f"rows set aside go to a file on this machine, and {aside} is not here",
            "Name a file here: somebody is to look at it. Or leave --aside out.",
        )


def plan_appended(extracts: Sequence[str], behind: str, aside: str | None) -> list[OutputPaths]:
    """One output that is there, or is made, and a file for the rows set aside of each extract."""
    if is_remote(behind):
        raise wrong_recipe(
            "append-not-possible",
            f"--append goes on with a file on this machine, and {behind} is not here",
            f"Write what is new to a file of its own: --to {behind.rpartition('/')[0]}/",
        )
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
    _refuse_unknown(to or "")
    if to is not None and is_database(to):
        return _plan_elsewhere(extracts, to, aside)
    if only_new and to is not None and to != "-" and _is_there(to):
        raise wrong_recipe(
            "file-exists",
            f"{to} is there already, and only what is new would be in it",
            f"To add what is new to it: --append {to}. Or leave out --only-new: then it is made from all extracts.",
        )
    if to is not None and is_remote(to) and not to.endswith("/"):
        asides = _plan_one(extracts, name_of(to), aside, "--together writes one file") if aside else []
        own = [one.aside for one in asides] or [None] * len(extracts)
        return [OutputPaths(extract, None, file, to) for extract, file in zip(extracts, own, strict=True)]
    return _plan_one(extracts, to, aside, "--together writes one file")


def _is_there(to: str) -> bool:
    if not is_remote(to):
        return Path(to).is_file()
    from mangler.formats.remote.listing import is_there

    return is_there(to)


def _plan_one(extracts: Sequence[str], to: str | None, aside: str | None, why: str) -> list[OutputPaths]:
    _refuse_aside_elsewhere(aside)
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
    written: dict[Path | str, str] = {}
    for paths in all_paths:
        if paths.output is not None:
            written[paths.output] = "the output"
        elif is_remote(paths.address):
            written[paths.address] = "the output"
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
    seen: dict[Path | str, str] = {}
    for paths in all_paths:
        for path in (paths.output, paths.aside, paths.address if is_remote(paths.address) else None):
            if path is None or identity_of(path) is None:
                continue
            if path in seen:
                raise wrong_recipe(
                    "file-would-be-lost",
                    f"{seen[path]} and {paths.extract} would both be written to {path}",
                    "Run them one by one, each --to a file of its own.",
                )
            seen[path] = paths.extract
