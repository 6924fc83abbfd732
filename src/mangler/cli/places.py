"""Where a run's outputs go: a file, a folder with a file for each extract, or standard output."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from mangler.formats.compression import ENDINGS
from mangler.language.mistake import file_trouble, reason, wrong_recipe

STANDARD_INPUT_NAME = "standard-input.csv"


@dataclass(frozen=True)
class Place:
    """Output and aside file of one extract; None stands for standard output, and for no aside file."""

    extract: str
    output: Path | None
    aside: Path | None


def plan_places(extracts: Sequence[str], to: str | None, aside: str | None) -> list[Place]:
    """A place for each extract. Folders are not made yet; two extracts with one output are refused."""
    if to is None or to == "-":
        if len(extracts) > 1:
            raise wrong_recipe(
                f"{len(extracts)} extracts cannot go to standard output together",
                "Name a folder: --to clean/",
            )
        return [Place(extracts[0], None, Path(aside) if aside else None)]
    folder = len(extracts) > 1 or to.endswith("/") or Path(to).is_dir()
    if folder and Path(to).exists() and not Path(to).is_dir():
        raise wrong_recipe(
            f"{to} is a file, and {len(extracts)} extracts need a folder", "Name a folder: --to clean/"
        )
    asides = Path(aside) if aside else None
    aside_folder = asides is not None and (len(extracts) > 1 or aside.endswith("/") or asides.is_dir())  # type: ignore[union-attr]
    places = []
    for extract in extracts:
        name = STANDARD_INPUT_NAME if extract == "-" else Path(extract).name
        output = Path(to) / name if folder else Path(to)
        plain = output.with_suffix("") if output.suffix in ENDINGS else output
        own = f"{plain.stem}.aside.csv"
        set_aside = output.with_name(own) if asides is None else asides / own if aside_folder else asides
        places.append(Place(extract, output, set_aside))
    _refuse_collisions(places)
    return places


def make_folders(places: Sequence[Place], to: str | None, aside: str | None) -> None:
    """Makes the folders that outputs need; their parents must be there."""
    for wanted in (to, aside):
        if wanted is None or wanted == "-":
            continue
        folder = Path(wanted)
        if not any(
            path is not None and path.parent == folder for p in places for path in (p.output, p.aside)
        ):
            continue
        if folder.is_dir():
            continue
        if not folder.parent.is_dir():
            raise file_trouble(
                f"the folder {wanted} cannot be made: {folder.parent} does not exist",
                "Make its parent first.",
            )
        try:
            folder.mkdir()
        except OSError as error:
            raise file_trouble(f"the folder {wanted} cannot be made: {reason(error)}") from None


def _refuse_collisions(places: Sequence[Place]) -> None:
    seen: dict[Path, str] = {}
    for place in places:
        for path in (place.output, place.aside):
            if path is None:
                continue
            if path in seen:
                raise wrong_recipe(
                    f"{seen[path]} and {place.extract} would both be written to {path}",
                    "Run them one by one, each --to a file of its own.",
                )
            seen[path] = place.extract
