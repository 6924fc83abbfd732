"""Writes a run into a history."""

from __future__ import annotations

import contextlib
from collections.abc import Callable
from contextlib import closing
from hashlib import blake2b
from pathlib import Path
from typing import Any

from mangler.addresses import is_database, is_elsewhere
from mangler.engine.run.summary import Summary
from mangler.file_names import readable
from mangler.formats.contract import PendingOutput
from mangler.formats.location import PART_MARK, open_bytes, split_address
from mangler.history.store import LAST, CannotBeWrittenError, History, PastRun, State
from mangler.kernels.content_digest import MARK, ContentDigest
from mangler.language.mistake import Refusal
from mangler.late_dataclass import dataclass

ENDINGS_OF_OLD = (".csv", ".tsv", ".txt", ".csv.gz", ".tsv.gz")
"""Endings that the names of series had in histories before formats were several."""

PIECE = 1 << 20


@dataclass
class Recording:
    """One extract's run, reported by the engine.

    A history that is damaged, or whose disk is full, keeps the run from delivering; one that may only be read does not.
    """

    history: History
    recipe: str
    recipe_digest: str
    series: str = ""
    fingerprint: Callable[[], dict[str, Any] | None] = lambda: None
    """Gives the extract's fingerprint once it was read."""
    number: int | None = None
    summary: Summary | None = None
    trouble: str = ""
    """Why a run that delivered is not noted; empty where it is."""

    def delivering(self, summary: Summary, extract_digest: str | None, put: PendingOutput | None) -> None:
        self.summary = summary
        try:
            self.number = self.history.begin(
                self.recipe,
                self.recipe_digest,
                summary.extract,
                extract_digest,
                str(put.path) if put else None,
                put.inode if put else None,
                summary.to_json(),
                State.DELIVERING,
                self.series,
                self.fingerprint(),
            )
        except CannotBeWrittenError as refusal:
            self.trouble = refusal.mistakes[0].message

    def delivered(self) -> None:
        assert self.summary is not None
        self._end(self.summary)

    def completed(self, summary: Summary) -> None:
        """The account as it was shown in the end, with the names of the files."""
        self._end(summary)

    def _end(self, summary: Summary) -> None:
        """The output is in its place: what goes wrong from here on is trouble, and no refusal."""
        if self.number is None or self.trouble:
            return
        try:
            self.history.end(self.number, State.DELIVERED, summary.to_json())
        except Refusal as refusal:
            self.trouble = refusal.mistakes[0].message

    def refused(self, extract: str, account: dict[str, Any]) -> None:
        """The extract was not delivered; a history that cannot be written is not worth a second message."""
        with contextlib.suppress(Refusal):
            if self.number is not None:
                self.history.end(self.number, State.BROKEN_OFF, account)
            else:
                self.history.begin(
                    self.recipe, self.recipe_digest, extract, None, None, None, account, State.REFUSED
                )


@dataclass(frozen=True)
class RecipeHistory:
    """What a history knows of one recipe, known by where its file is."""

    history: History
    recipe: str
    recipe_digest: str

    @classmethod
    def open(cls, path: Path, recipe: Path, digest: str, make: bool = True) -> RecipeHistory:
        """`digest` is that of the recipe. Without `make` the history must be there."""
        return cls(History.open(path, make), readable(recipe.absolute()), digest)

    def recording(self, series: str, fingerprint: Callable[[], dict[str, Any] | None]) -> Recording:
        """For the run of one extract of a series."""
        return Recording(self.history, self.recipe, self.recipe_digest, series, fingerprint)

    def fingerprints(self, series: str) -> list[dict[str, Any]]:
        """Those of the last extracts of a series, the latest first. Older histories name it with its ending."""
        found: list[dict[str, Any]] = []
        for name in (series, *(f"{series}{ending}" for ending in ENDINGS_OF_OLD)):
            if len(found) < LAST:
                found += self.history.fingerprints(self.recipe, name)
        return found[:LAST]

    def newest(self, series: str, extract: str) -> dict[str, Any] | None:
        """What was noted of a table that grows when its rows were delivered last; None where they never were."""
        past = self.history.last_delivery(self.recipe, series, extract)
        found: dict[str, Any] | None = None if past is None else past.account.get("newest")
        return found

    def delivered_before(self, extract: str, behind: Path | None = None) -> dict[str, Any] | None:
        """What is reported about an extract whose content this recipe has delivered; None where it has not.

        Where rows go behind those of a file, only what is in that file counts.
        """
        if extract == "-" or is_database(extract) or (behind is not None and not behind.exists()):
            return None
        output = "" if behind is None else str(behind.absolute())
        since = self.history.made_by(output) if output else 0
        try:
            past = self.history.delivery_of(self.recipe, digest_of_extract(extract), since, output)
            if past is None and self.history.has_older_digests(self.recipe, MARK):
                past = self.history.delivery_of(self.recipe, _older_digest_of(extract), since, output)
        except (OSError, Refusal):
            return None  # the run says what is wrong with it
        return None if past is None else self._skipped(extract, past)

    def delivered_version(self, series: str, extract: str, version: str) -> dict[str, Any] | None:
        """What is reported about a file elsewhere that was delivered, and whose place says that it is the same."""
        past = self.history.last_delivery(self.recipe, series, extract)
        return (
            self._skipped(extract, past)
            if past is not None and past.account.get("version") == version
            else None
        )

    def _skipped(self, extract: str, past: PastRun) -> dict[str, Any]:
        message = f"run {past.number} of {past.started[:10]} delivered the same content"
        place = past.account.get("output") or past.output
        message += f" to {place}" * bool(past.output or is_elsewhere(place or ""))
        if past.recipe_digest != self.recipe_digest:
            message += "; the recipe has changed since"
        return {"extract": extract, "delivered": False, "delivered_before": past.number, "message": message}


def digest_of_extract(path: str) -> str:
    """The digest of a file's content, the same that a run gives it."""
    return _digest(path, ContentDigest())


def _older_digest_of(path: str) -> str:
    """The digest that runs of versions before `ContentDigest` noted."""
    return _digest(path, blake2b(digest_size=16))


def _digest(path: str, digest: Any) -> str:
    name, part = split_address(path)
    with closing(open_bytes(name)) as file:
        while piece := file.read(PIECE):
            digest.update(piece)
    found: str = digest.hexdigest()
    return f"{found}{PART_MARK}{part}" if part else found
