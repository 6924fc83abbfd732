"""The report of a run: the verdict, rows on their way, what each step did, nulls, rows set aside, how to repeat it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from mangler.cli.reports.cells import message, name, number
from mangler.cli.reports.figures.bars import pairs
from mangler.cli.reports.figures.rows_band import Stage, rows_band
from mangler.cli.reports.page import Block, Code, Facts, Listing, Page, Paragraph, Points, Section, Tone
from mangler.cli.reports.samples import sample_blocks
from mangler.cli.views.summary_view import balance_text, duration
from mangler.engine.run.summary import Balance, example_text
from mangler.engine.trial.trial import StepTrial
from mangler.history.stored import BALANCE, NULLS, REASONS, has_shape

MOST_IN_FULL = 8
"""Extracts that have a part of their own, those first that need a look; the others have a line."""
MOST_STEPS = 200
MOST_NULLS = 24
COUNTS = (("cells_changed", "cells changed"), ("nulls_made", "nulls made"), ("nulls_filled", "nulls filled"))

Samples = Mapping[str, "Sequence[StepTrial] | str"]
"""By extract, what each step did to its first rows, or why that is not shown."""


def run_page(
    title: str,
    accounts: Sequence[Mapping[str, Any]],
    samples: Samples,
    recipe: tuple[str, str] | None,
    made_by: str,
    further: Sequence[Section] = (),
    rehearsed: bool = False,
) -> Page:
    """`accounts` are what `--json` says of the extracts; `recipe` is the name of the file and its text; None
    for a run of the past, whose recipe may be another now.
    """
    verdict, tone = _verdict(accounts, rehearsed)
    sections: list[Section] = []
    if len(accounts) > 1:
        sections.append(_overview(accounts))
    for account in in_full(accounts):
        sections += _of_extract(account, samples, len(accounts) > 1)
    if len(accounts) > MOST_IN_FULL:
        more = f"{len(accounts) - MOST_IN_FULL:,} more extracts have only their line in the table above."
        sections.append(Section("Other extracts", [Paragraph(more)]))
    together = next((one["together"] for one in accounts if one.get("together")), None)
    if together is not None:
        sections += _of_extract(together, {}, True)
    sections += further
    if recipe is not None:
        sections.append(_repeat(recipe, made_by))
    return Page(message(title) or name(recipe[0] if recipe else "a run"), verdict, tone, sections, made_by)


def in_full(accounts: Sequence[Mapping[str, Any]]) -> list[Mapping[str, Any]]:
    """The extracts that have a part of their own, in their order: rather those that are refused or bring warnings."""

    def need(at: int) -> tuple[bool, bool]:
        one = accounts[at]
        looks = "balance" in one and bool(one["warnings"] or one["balance"]["set_aside"])
        return "mistakes" not in one, not looks

    return [accounts[at] for at in sorted(sorted(range(len(accounts)), key=need)[:MOST_IN_FULL])]


def _verdict(accounts: Sequence[Mapping[str, Any]], rehearsed: bool) -> tuple[str, Tone]:
    refused = [one for one in accounts if "mistakes" in one]
    skipped = [one for one in accounts if "delivered_before" in one]
    done = [one for one in accounts if "balance" in one]
    together = next((one["together"] for one in done if one.get("together")), None)
    rows = together["balance"]["delivered"] if together else sum(one["balance"]["delivered"] for one in done)
    aside = sum(one["balance"]["set_aside"] for one in done)
    warnings = sum(len(one["warnings"]) for one in done)
    verb = "Rehearsed" if rehearsed else "Delivered"
    told = f"{verb}: {rows:,} {'row' if rows == 1 else 'rows'}, and every row read is accounted for"
    if len(accounts) > 1:
        told = f"{verb} {len(done)} of {len(accounts)} extracts: {rows:,} rows"
    if not done:
        told = "Nothing was delivered" if refused else "Nothing was new: all extracts were delivered before"
    told += f", {len(skipped)} skipped" * bool(skipped and done)
    told += f"; {aside:,} set aside" * bool(aside)
    told += f"; {warnings:,} {'warning' if warnings == 1 else 'warnings'}" * bool(warnings)
    tone = Tone.BAD if refused else Tone.LOOK if aside or warnings else Tone.GOOD
    return told + ".", tone


def _overview(accounts: Sequence[Mapping[str, Any]]) -> Section:
    rows = []
    for one in accounts:
        if "balance" in one:
            balance = one["balance"]
            counts = [number(balance[key]) for key in ("read", "delivered", "set_aside")]
            rows.append([name(one["extract"]), *counts, number(len(one["warnings"])), _ending(one)])
        else:
            rows.append([name(one["extract"]), "", "", "", "", _ending(one)])
    heads = ["extract", "rows read", "delivered", "set aside", "warnings", "what happened"]
    return Section("The extracts", [Listing(heads, rows, frozenset({1, 2, 3, 4}))])


def _ending(account: Mapping[str, Any]) -> str:
    if "mistakes" in account:
        return "not delivered: " + message(account["mistakes"][0]["message"])
    if "delivered_before" in account:
        return "skipped: " + message(account["message"])
    return f"delivered to {name(account['output'])}" if account.get("output") else "delivered"


def _of_extract(account: Mapping[str, Any], samples: Samples, several: bool) -> Iterator[Section]:
    extract = str(account["extract"])
    head = f"{name(extract)}: " if several else ""
    if "mistakes" in account:
        yield Section(f"{head}not delivered", list(_mistakes(account["mistakes"])))
        return
    if "balance" not in account:
        yield Section(f"{head}skipped", [Paragraph(message(account["message"]))])
        return
    yield Section(f"{head}rows" if head else "Rows", list(_rows(account)))
    yield Section(f"{head}steps" if head else "Steps", list(_steps(account)))
    told = samples.get(extract, ())
    if isinstance(told, str):
        yield Section(
            f"{head}cells before and after" if head else "Cells before and after", [Paragraph(told)]
        )
    else:
        yield from _samples(told, head)
    if nulls := list(_nulls(account)):
        yield Section(f"{head}nulls" if head else "Nulls", nulls)
    if account["balance"]["set_aside"]:
        yield Section(f"{head}rows set aside" if head else "Rows set aside", list(_aside(account)))


def _mistakes(mistakes: Sequence[Mapping[str, Any]]) -> Iterator[Block]:
    for mistake in mistakes[:10]:
        where = f"line {mistake['line']}: " if mistake.get("line") else ""
        yield Paragraph(where + message(mistake["message"]), Tone.BAD)
        if mistake.get("advice"):
            yield Paragraph(message(mistake["advice"]))
    if len(mistakes) > 10:
        yield Paragraph(f"and {len(mistakes) - 10:,} more")


def _rows(account: Mapping[str, Any]) -> Iterator[Block]:
    end = "delivered" if account.get("together") is None else "into one table"
    left, right = balance_text(Balance(**{key: account["balance"][key] for key in BALANCE}), end)
    if account["warnings"]:
        yield Points([message(one) for one in account["warnings"]], Tone.LOOK)
    facts = [("balance", f"{left.removeprefix('rows: ')} {right}")]
    facts += [(what, message(found)) for what, found in account["found_out"].items()]
    if account.get("output"):
        facts.append(("output", name(account["output"])))
    if account.get("replaced"):
        facts.append(("before it", name(account["replaced"])))
    facts.append(("time", duration(account["seconds"])))
    yield Facts(facts)
    yield rows_band([_stage(step) for step in account["steps"]])


def _stage(step: Mapping[str, Any]) -> Stage:
    added, merged = step.get("rows_added") or 0, step.get("rows_merged") or 0
    aside = step.get("withdrawn") or 0
    dropped = max(0, step["rows_in"] + added - merged - aside - step["rows_out"])
    if not step["line"] or step["step"].startswith("read"):  # rows without a place in the table
        aside, dropped = aside + dropped, 0
    return Stage(
        f"{_label(step)} {message(step['step'])}".strip(),
        step["rows_in"],
        step["rows_out"],
        dropped,
        merged,
        aside,
        added,
    )


def _label(step: Mapping[str, Any]) -> str:
    if not step["line"]:
        return ""
    return f"{step['file']}:{step['line']}" if step.get("file") else f"line {step['line']}"


def _steps(account: Mapping[str, Any]) -> Iterator[Block]:
    steps = account["steps"][:MOST_STEPS]
    rows = []
    for at, step in enumerate(steps):
        moved = step["rows_in"] != step["rows_out"]
        count = f"{step['rows_in']:,} → {step['rows_out']:,}" if moved else number(step["rows_in"]) * (not at)
        counts = [number(step[key]) if step[key] else "" for key, _ in COUNTS]
        told = [*(f"! {one}" for one in step["remarks"]), *step["facts"]]
        rows.append(
            [
                _label(step).removeprefix("line "),
                message(step["step"]),
                count,
                *counts,
                message("; ".join(told)),
            ]
        )
    heads = ["line", "step", "rows", *(head for _, head in COUNTS), "remarks"]
    kept = [0, 1, *(i for i in range(2, len(heads)) if any(row[i] for row in rows))]
    numeric = frozenset(at for at, i in enumerate(kept) if i in (0, 2, 3, 4, 5))
    yield Listing([heads[i] for i in kept], [[row[i] for i in kept] for row in rows], numeric)
    if len(account["steps"]) > MOST_STEPS:
        yield Paragraph(f"and {len(account['steps']) - MOST_STEPS:,} more steps")


def _samples(told: Sequence[StepTrial], head: str) -> Iterator[Section]:
    blocks: list[Block] = []
    for trial in told[:MOST_STEPS]:
        own = list(sample_blocks(trial))
        if own:
            label = trial.planned.statement.label
            blocks += [Code(f"{label}  {trial.planned.text}"), *own]
    if blocks:
        blocks.insert(
            0, Paragraph("On the first rows of the extract: what each step changed, the difference marked.")
        )
        yield Section(f"{head}cells before and after" if head else "Cells before and after", blocks)


def _nulls(account: Mapping[str, Any]) -> Iterator[Block]:
    nulls: Any = account.get("nulls")
    if not has_shape(nulls, NULLS):  # runs of earlier versions did not note them
        return
    before, after = nulls["read"], nulls["delivered"]
    names = [one for one in dict.fromkeys([*before, *after]) if before.get(one) or after.get(one)]
    if not names:
        yield Paragraph("No cell is null, as read or as delivered.")
        return
    worst = sorted(names, key=lambda one: -max(before.get(one, 0), after.get(one, 0)))[:MOST_NULLS]
    shown = [(name(one), before.get(one, 0), after.get(one, 0)) for one in names if one in worst]
    total = account["balance"]["read"], account["balance"]["delivered"]
    told = f"Null cells of {len(shown)} columns as shares of all rows, as read and as delivered."
    yield pairs(shown, total, told)
    if len(names) > MOST_NULLS:
        yield Paragraph(f"{len(names) - MOST_NULLS:,} more columns have fewer nulls.")


def _aside(account: Mapping[str, Any]) -> Iterator[Block]:
    reasons: Any = account.get("set_aside_reasons")
    if has_shape(reasons, REASONS) and reasons:
        rows = [
            [one["step"], message(one["reason"]) if one["reason"] else "other reasons", number(one["rows"])]
            for one in reasons
        ]
        yield Listing(["line", "reason", "rows"], rows, frozenset({2}))
    first = account["set_aside_first"]
    yield Points([message(example_text(one["row"], one["line"], one["reason"])) for one in first])
    if account.get("aside"):
        yield Paragraph(f"They are in {name(account['aside'])}, as they were read, each with its reason.")


def _repeat(recipe: tuple[str, str], made_by: str) -> Section:
    blocks: list[Block] = [Code(made_by)]
    blocks.append(Code(recipe[1], folded=f"The recipe {name(recipe[0])}"))
    return Section("How to repeat this", blocks)
