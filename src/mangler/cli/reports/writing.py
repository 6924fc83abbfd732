"""Where a report goes: which of the two forms it takes, that its place is one, and that it is there whole or not."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from pathlib import Path

from mangler.addresses import is_elsewhere
from mangler.cli.reports.page import Page
from mangler.engine.run.overwriting import NamedFile, refuse_overwriting
from mangler.file_names import readable
from mangler.formats.delivery import FileDelivery
from mangler.language.mistake import file_trouble, wrong_recipe

ENDINGS = (".html", ".md")


def refuse_bad_place(report: Path, read: Iterable[NamedFile]) -> None:
    """Refuses, before any work, a place that no report can be written to.

    `read` are the other files of the command: a report takes the place of none of them.
    """
    refuse_bad_file(report, "the report", "a page or Markdown", ENDINGS, read)


def refuse_bad_file(
    place: Path, what: str, form: str, endings: Sequence[str], read: Iterable[NamedFile]
) -> None:
    """Refuses a place with another ending, in a folder that is not there, or taken by something else."""
    option = what.removeprefix("the ")
    if is_elsewhere(str(place).replace(":/", "://", 1)):
        raise wrong_recipe(
            "report-not-possible", f"{readable(place)} is an address", f"Write {what} to a file here."
        )
    if place.suffix.lower() not in endings:
        raise wrong_recipe(
            "report-not-possible",
            f"{readable(place)}: {what} is {form}",
            f"Let its name end with {' or '.join(endings)}.",
        )
    if not place.parent.is_dir():
        raise file_trouble(
            "no-such-file",
            f"the folder {readable(place.parent)} of {what} is not there",
            f"Make it, or name another place with --{option}.",
        )
    if place.exists() and not place.is_file():
        raise file_trouble(
            "file-not-written", f"{readable(place)} is not a file", f"Name a file with --{option}."
        )
    refuse_overwriting([(place, what)], read)


def write_report(report: Path, page: Page) -> None:
    """Puts the report in its place at once."""
    if report.suffix.lower() == ".md":
        from mangler.cli.reports.markdown import to_markdown

        deliver_text(report, to_markdown(page))
    else:
        from mangler.cli.reports.html import to_html

        deliver_text(report, to_html(page))


def deliver_text(place: Path, text: str) -> None:
    """A text in its place, whole or not at all."""
    delivery = FileDelivery(place)
    try:
        delivery.write(text.encode("utf-8", "replace"))
        delivery.commit()
    finally:
        delivery.discard()
