"""The report of `check`: of each extract whether it fits, and what is not as it was."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from mangler.cli.reports.cells import message, name, number
from mangler.cli.reports.page import Block, Listing, Page, Paragraph, Points, Section, Tone
from mangler.cli.views.check_view import verdict_of

MOST_IN_FULL = 100
MOST_FINDINGS = 200


def check_page(recipe: str, accounts: Sequence[Mapping[str, Any]], made_by: str) -> Page:
    """`accounts` are what `mangler check --json` says of the extracts."""
    bad = sum(bool(one["mistakes"]) for one in accounts)
    changed = sum(not one["mistakes"] and bool(one["findings"]) for one in accounts)
    fit = len(accounts) - bad - changed
    if len(accounts) == 1:
        verdict = _verdict(accounts[0])
    else:
        counts = (
            (fit, "fit"),
            (changed, "not like the earlier ones"),
            (bad, "would not be delivered"),
        )
        verdict = (
            f"Of {len(accounts)} extracts: " + ", ".join(f"{n:,} {what}" for n, what in counts if n) + "."
        )
    if not accounts:
        verdict = "The recipe has no mistakes."
    tone = Tone.BAD if bad else Tone.LOOK if changed else Tone.GOOD
    sections = []
    if len(accounts) > 1:
        rows = [
            [
                name(one["extract"]),
                number(one.get("earlier_runs", 0)),
                number(len(one["findings"])),
                _verdict(one),
            ]
            for one in accounts
        ]
        sections.append(
            Section(
                "The extracts",
                [Listing(["extract", "earlier runs", "changes", "verdict"], rows, frozenset({1, 2}))],
            )
        )
    sections += [Section(name(one["extract"]), list(_blocks(one))) for one in accounts[:MOST_IN_FULL]]
    return Page(f"Check with {name(recipe)}", verdict, tone, sections, made_by)


def _verdict(one: Mapping[str, Any]) -> str:
    return verdict_of(bool(one["mistakes"]), len(one["findings"]), one.get("set_aside", 0))


def _blocks(one: Mapping[str, Any]) -> Iterator[Block]:
    runs = one.get("earlier_runs", 0)
    compared = f"Compared with {number(runs)} earlier {'run' if runs == 1 else 'runs'}."
    yield Paragraph(compared if runs else "No earlier run of such an extract is noted.")
    for mistake in one["mistakes"][:10]:
        where = f"line {mistake['line']}: " if mistake["line"] else ""
        yield Paragraph(where + message(mistake["message"]), Tone.BAD)
        if mistake["advice"]:
            yield Paragraph(message(mistake["advice"]))
    if one["findings"]:
        rows = [
            [
                message(found["told"]),
                ", ".join(name(column) for column in found["columns"][:8]),
                message("; ".join(found["consequences"][:3])),
                message("; ".join(f"line {step['line']}: {step['step']}" for step in found["steps"][:5])),
            ]
            for found in one["findings"][:MOST_FINDINGS]
        ]
        heads = ["what is not as it was", "columns", "and so", "steps in danger"]
        kept = [i for i in range(4) if not i or any(row[i] for row in rows)]
        yield Listing([heads[i] for i in kept], [[row[i] for i in kept] for row in rows])
        if len(one["findings"]) > MOST_FINDINGS:
            yield Paragraph(f"and {len(one['findings']) - MOST_FINDINGS:,} more")
    if one.get("warnings"):
        yield Points([message(text) for text in one["warnings"]], Tone.LOOK)
    yield Paragraph(
        _verdict(one), Tone.BAD if one["mistakes"] else Tone.LOOK if one["findings"] else Tone.GOOD
    )
