"""The report of past runs: for each recipe, rows, rows set aside, nulls and time over its runs; then the runs."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from mangler.cli.reports.cells import name, number
from mangler.cli.reports.figures.weeks import over_runs
from mangler.cli.reports.page import Block, Cards, Facts, Listing, Page, Paragraph, Section, Tone
from mangler.cli.reports.run_report import run_page
from mangler.cli.views.summary_view import duration
from mangler.history.store import PastRun, State
from mangler.history.stored import NULLS, has_shape

MOST_RECIPES = 12
MOST_DRAWN = 300
"""The last runs of a recipe, which its figures show."""
MOST_LISTED = 500


def history_page(runs: Sequence[PastRun], history: Path, made_by: str) -> Page:
    """`runs` with the latest first, as the history gives them."""
    delivered = sum(run.state is State.DELIVERED for run in runs)
    broken = [run for run in runs if run.state not in (State.DELIVERED, State.DELIVERING)]
    verdict = f"{delivered:,} of {len(runs):,} runs delivered"
    if broken:
        verdict += f"; the last one that did not: run {broken[0].number}"
    recipes: dict[str, list[PastRun]] = {}
    for run in runs:
        recipes.setdefault(run.recipe, []).append(run)
    sections = [
        Section(name(Path(recipe).name), list(_of_recipe(own[:MOST_DRAWN][::-1])))
        for recipe, own in list(recipes.items())[:MOST_RECIPES]
    ]
    sections.append(Section("Runs", list(_listed(runs))))
    tone = Tone.LOOK if broken else Tone.GOOD
    return Page(f"Runs in {name(str(history))}", verdict + ".", tone, sections, made_by)


def _of_recipe(runs: Sequence[PastRun]) -> Iterator[Block]:
    """Small figures of one recipe, the earliest run first."""
    done = [run for run in runs if run.state is State.DELIVERED]
    if len(done) < 2:
        yield Paragraph("Figures over time need two runs that delivered.")
        return
    labels = [f"{run.number} {Path(run.extract).name}" for run in done]
    accounts = [run.account for run in done]
    series: list[tuple[str, list[float], list[str]]] = []
    for title, key in (("Rows delivered", "delivered"), ("Rows set aside", "set_aside")):
        counts = [float(one["balance"][key]) for one in accounts]
        series.append((title, counts, [f"{count:,.0f}" for count in counts]))
    shares = [_null_share(one) for one in accounts]
    if all(share is not None for share in shares):
        known = [share or 0.0 for share in shares]
        series.append(("Null cells of those delivered", known, [f"{share:.1%}" for share in known]))
    seconds = [float(one["seconds"]) for one in accounts]
    series.append(("Time", seconds, [duration(one) for one in seconds]))
    cards = []
    for title, counts, written in series:
        most = written[counts.index(max(counts))]
        told = f"{title} over {len(done)} runs: from {written[0]} to {written[-1]}, at most {most}."
        figure = over_runs([name(one) for one in labels], counts, written, told, title.lower())
        cards.append(Section(title, [figure]))
    yield Cards(cards)


def _null_share(account: dict[str, Any]) -> float | None:
    nulls: Any = account.get("nulls")
    if not has_shape(nulls, NULLS):
        return None
    cells = account["balance"]["delivered"] * max(1, len(account["columns"]))
    return sum(nulls["delivered"].values()) / cells if cells else 0.0


def _listed(runs: Sequence[PastRun]) -> Iterator[Block]:
    rows = []
    for run in runs[:MOST_LISTED]:
        balance = run.account["balance"] if run.state is State.DELIVERED else {}
        counts = [number(balance.get(key)) for key in ("read", "delivered", "set_aside")]
        warnings = number(len(run.account.get("warnings", ())) or None)
        started = run.started[:16].replace("T", " ")
        rows.append(
            [
                str(run.number),
                started,
                str(run.state),
                *counts,
                warnings,
                name(Path(run.recipe).name),
                name(run.extract),
            ]
        )
    heads = [
        "run",
        "started (UTC)",
        "ended",
        "read",
        "delivered",
        "set aside",
        "warnings",
        "recipe",
        "extract",
    ]
    yield Listing(heads, rows, frozenset({0, 3, 4, 5, 6}))
    if len(runs) > MOST_LISTED:
        yield Paragraph(f"and {len(runs) - MOST_LISTED:,} earlier runs")


def past_run_page(run: PastRun, made_by: str) -> Page:
    """One run as it reported itself."""
    title = str(run.account.get("title") or name(Path(run.recipe).name))
    started = f"{run.started[:19].replace('T', ' ')} UTC"
    facts = Facts(
        [
            ("run", f"{run.number}, {run.state}"),
            ("started", started),
            ("recipe", f"{name(run.recipe)} {run.recipe_digest}"),
            ("extract", f"{name(run.extract)} {run.extract_digest or ''}"),
        ]
    )
    about = Section(f"Run {run.number}", [facts])
    if run.state in (State.DELIVERED, State.REFUSED) and (
        run.state is State.DELIVERED or run.account.get("mistakes")
    ):
        account = {"extract": run.extract, **run.account}
        page = run_page(title, [account], {}, None, made_by)
        return replace(page, sections=[about, *page.sections])
    verdict = "It ended before its output was in its place: nothing was delivered."
    if run.state is State.UNKNOWN:
        verdict = "What is noted of it is damaged, or of another version of Mangler."
    return Page(title, verdict, Tone.BAD, [about], made_by)
