"""`mangler run --together`: all extracts into one output, which appears when all were read."""

from __future__ import annotations

from collections import deque
from collections.abc import Sequence
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from mangler.cli.cleaning import Manner, Outcome, delivered, prepare_one, refused, show_outcome, what_was_at
from mangler.cli.fault import refusal_of
from mangler.cli.in_turn import passed_over
from mangler.cli.places import Place
from mangler.cli.progress import ProgressBar, size_of
from mangler.engine.destination import DelimitedOutput
from mangler.engine.recipe import Cleaned, Recipe, deliver
from mangler.engine.summary import Summary
from mangler.engine.together import WaitingRows, columns_lacking, columns_of_all, write_together
from mangler.history.recording import RecipeHistory, Recording
from mangler.history.store import LAST
from mangler.insight.fingerprint import Fingerprint, series_of
from mangler.language.mistake import Refusal, extract_does_not_fit
from mangler.library import earlier
from mangler.table.room import SpoolFile


@dataclass(frozen=True)
class _Waiting:
    """An extract that was cleaned, and waits for the others."""

    place: Place
    recording: Recording | None
    cleaned: Cleaned
    rows: WaitingRows

    @property
    def summary(self) -> Summary:
        return self.cleaned.result.summary


def clean_together(
    recipe: Recipe,
    places: Sequence[Place],
    manner: Manner,
    past: RecipeHistory | None,
    only_new: bool,
    to: Path | None,
) -> list[Outcome]:
    """The rows of those that fit stand in the output, extract after extract."""
    outcomes: dict[Place, Outcome] = {}
    waiting: list[_Waiting] = []
    earlier_here: dict[str, deque[Fingerprint]] = {}
    """Of each series the fingerprints of this run, the latest first."""
    file = SpoolFile()
    try:
        for place in places:
            if only_new and (outcome := passed_over(place, past)):
                outcomes[place] = outcome
                continue
            rows = WaitingRows(file)
            with closing(ProgressBar(place.extract, size_of(place.extract), not manner.silent)) as bar:

                def before(place: Place = place) -> list[Fingerprint]:
                    return _earlier(place, earlier_here, past)

                recording, cleaned = prepare_one(recipe, place, rows, manner, past, bar, before)
            if isinstance(cleaned, Refusal):
                outcomes[place] = refused(cleaned, place, recording)
            else:
                told = recording.fingerprint() if recording is not None else None
                fingerprint = Fingerprint.of_json(told) if told else None
                waiting.append(_Waiting(place, recording, cleaned, rows))
                if fingerprint is not None:
                    own = earlier_here.setdefault(series_of(place.extract), deque(maxlen=LAST))
                    own.appendleft(fingerprint)
        outcomes |= _deliver(waiting, outcomes, manner, past, to)
    finally:
        file.close()
        for one in waiting:
            one.cleaned.aside_file.discard()
    for place in places:
        show_outcome(outcomes[place], place.extract, manner)
    return [outcomes[place] for place in places]


def _earlier(
    place: Place, here: dict[str, deque[Fingerprint]], past: RecipeHistory | None
) -> list[Fingerprint]:
    """The last extracts of the same series, the latest first: those of this run too."""
    own = here.get(series_of(place.extract), ())
    return [*own, *(earlier(past, place.extract) if past is not None else [])][:LAST]


def _deliver(
    waiting: Sequence[_Waiting],
    others: dict[Place, Outcome],
    manner: Manner,
    past: RecipeHistory | None,
    to: Path | None,
) -> dict[Place, Outcome]:
    """What becomes of the extracts that fit."""
    if not waiting:
        return {}
    output = DelimitedOutput(to, manner.rehearse)
    parts = [one.rows for one in waiting]
    names = columns_of_all(parts)
    lacking = {one.place.extract: columns_lacking(one.rows, names) for one in waiting}
    for one in waiting:
        one.summary.warnings += [lacking[one.place.extract]] * bool(lacking[one.place.extract])
    try:
        if manner.options.strict:
            _refuse_differences(others, lacking)
        write_together(parts, output)
        replaced = "" if manner.rehearse else what_was_at(to, past)
        for one in waiting:
            one.summary.replaced = replaced
        deliver([one.cleaned for one in waiting], output)
    except BrokenPipeError:
        raise
    except Exception as error:
        refusal = refusal_of(error)
        output.discard()
        return {one.place: refused(refusal, one.place, one.recording) for one in waiting}
    return {one.place: delivered(one.cleaned, one.place, manner, one.recording) for one in waiting}


def _refuse_differences(others: dict[Place, Outcome], lacking: dict[str, str]) -> None:
    """With --strict all extracts must fit, and give the same columns."""
    missing = [place.extract for place, outcome in others.items() if outcome.refusal is not None]
    if missing:
        raise extract_does_not_fit(
            f"the output would be without {', '.join(missing)}, which --strict does not allow",
            "Nothing is delivered. Mend what does not fit, leave it out, or run without --strict.",
        )
    differing = [f"    {extract}: {told}" for extract, told in lacking.items() if told]
    if differing:
        raise extract_does_not_fit(
            "the extracts differ in their columns, which --strict does not allow:\n" + "\n".join(differing),
            "Nothing is delivered. Let the recipe give all the same columns, or run without --strict.",
        )
