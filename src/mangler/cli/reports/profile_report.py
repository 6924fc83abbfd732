"""The report of `profile`: a card for each column with its figures, what was found in it, and steps to copy."""

from __future__ import annotations

from collections.abc import Iterator

from mangler.cli.reports.cells import cell, message, name, number, plain
from mangler.cli.reports.figures.bars import stretches, values
from mangler.cli.reports.page import (
    Block,
    Cards,
    Code,
    Drawn,
    Facts,
    Listing,
    Page,
    Paragraph,
    Points,
    Section,
    Tone,
)
from mangler.insight.columns.finding import Proposal
from mangler.insight.profile.profile import ColumnProfile, Profile
from mangler.table.read_words import read_statement

MOST_CARDS, MOST_DRAWN = 60, 16
"""Columns that have a card, and of those, the ones with figures: the worst first. All are in the table."""
MOST_VALUES = 6
MOST_PARTS = 16


def profile_page(found: Profile, made_by: str) -> Page:
    faulty = sum(bool(column.faults) for column in found.columns)
    sure = sum(step.sure for column in found.columns for step in column.proposals)
    verdict = f"{found.rows:,} rows and {len(found.all_names):,} columns: "
    steps = "1 sure step" if sure == 1 else f"{sure:,} sure steps"
    verdict += f"{faulty:,} of them with something wrong, {steps} to correct it."
    if not faulty:
        verdict = (
            f"{found.rows:,} rows and {len(found.all_names):,} columns: nothing is wrong that could be found."
        )
    sections = [Section("The file", list(_file(found))), Section("Columns", [_overview(found)])]
    shown = found.worst_first[:MOST_CARDS]
    cards = [_card(column, found.rows, index < MOST_DRAWN) for index, column in enumerate(shown)]
    blocks: list[Block] = [Cards(cards)]
    if len(found.columns) > MOST_CARDS:
        blocks.append(
            Paragraph(
                f"{len(found.columns) - MOST_CARDS:,} more columns, with less that is wrong, have no card."
            )
        )
    sections.append(Section("Column by column, the worst first", blocks))
    tone = Tone.LOOK if faulty or found.unfit else Tone.GOOD
    return Page(f"Profile of {name(found.extract)}", verdict, tone, sections, made_by)


def _file(found: Profile) -> Iterator[Block]:
    yield Facts([(what, message(told)) for what, told in found.detected.items()])
    if found.hint:
        yield Paragraph(message(found.hint), Tone.LOOK)
    if found.layout_found:
        yield Paragraph("A recipe reads it with:")
        yield Code(read_statement(found.read_as))
    if found.unfit:
        first = found.unfit_examples[0]
        yield Paragraph(
            f"{found.unfit:,} rows do not fit in the table; row {first.row:,}: {message(first.reason)}",
            Tone.LOOK,
        )
    if found.table:
        yield Points(
            [
                message(". ".join(filter(None, [one.message, one.question or one.step])))
                for one in found.table[:20]
            ],
            Tone.LOOK,
        )


def _overview(found: Profile) -> Listing:
    rows = []
    for column in found.columns:
        wrong = "; ".join(f"{finding.message}" for finding in column.faults[:3])
        distinct = f"{'' if column.distinct_is_exact else 'about '}{column.distinct:,}"
        rows.append([name(column.name), column.looks, number(column.facts.nulls), distinct, message(wrong)])
    return Listing(["column", "looks like", "nulls", "values", "what is wrong"], rows, frozenset({2, 3}))


def _card(column: ColumnProfile, rows: int, drawn: bool) -> Section:
    facts = column.facts
    blocks: list[Block] = []
    about = "" if column.distinct_is_exact else "about "
    told = [
        ("looks like", column.looks),
        ("cells", f"{facts.cells:,}, {facts.nulls:,} null"),
        ("values", f"{about}{column.distinct:,}"),
    ]
    if facts.shortest and facts.longest:
        told.append(("characters", _span(facts.shortest[0], facts.longest[0])))
    blocks.append(Facts(told))
    if drawn:
        blocks += list(_figures(column, rows))
    faults, others = (
        [message(one.message) for one in column.findings if one.is_fault is fault] for fault in (True, False)
    )
    if faults:
        blocks.append(Points(faults[:10], Tone.LOOK))
    if others:
        blocks.append(Points(others[:5]))
    if column.proposals:
        blocks.append(Code("\n".join(_to_copy(step) for step in column.proposals[:10])))
    return Section(name(column.name), blocks)


def _to_copy(step: Proposal) -> str:
    """A step as a recipe has it; one that needs a decision is off, under its question."""
    if step.sure:
        return step.step
    return f"# {' '.join(step.question.split())}\noff {step.step}"


def _figures(column: ColumnProfile, rows: int) -> Iterator[Drawn]:
    title = name(column.name)
    if column.numbers is not None and len(column.numbers.numbers.histogram) > 1:
        yield _histogram(column)
    if column.frequent and column.frequent[0][1] > 1:
        own = [(plain(cell(value, 24)), cells) for value, cells in column.frequent[:MOST_VALUES]]
        yield values(own, f"The most frequent values of {title}: {own[0][0]} in {own[0][1]:,} cells.")
    elif len(column.facts.lengths) > 1:
        yield _lengths(column)
    if column.looks.startswith("list") and column.parts:
        yield _parts(column)
    if 0 < column.facts.nulls < column.facts.cells and rows > 1:
        yield _null_places(column, rows)


def _histogram(column: ColumnProfile) -> Drawn:
    assert column.numbers is not None
    numbers = column.numbers.numbers
    counts = list(numbers.histogram)
    wide = (numbers.most - numbers.least) / len(counts)
    rows = [
        [f"{numbers.least + wide * i:,.6g} to {numbers.least + wide * (i + 1):,.6g}", f"{count:,}"]
        for i, count in enumerate(counts)
    ]
    ends = f"{numbers.least:,.6g}", f"{numbers.most:,.6g}"
    told = f"How the numbers of {name(column.name)} lie from {ends[0]} to {ends[1]}"
    told += f"; half of them are up to {numbers.median:,.6g}."
    return stretches(counts, ends, Listing(["from, to", "cells"], rows, frozenset({1})), told)


def _lengths(column: ColumnProfile) -> Drawn:
    counts = column.facts.lengths
    order = range(min(counts), max(counts) + 1)
    names = ["0" if digits == 0 else _span(1 << (digits - 1), (1 << digits) - 1) for digits in order]
    rows = [[span, f"{counts[digits]:,}"] for span, digits in zip(names, order, strict=True)]
    told = f"How long the cells of {name(column.name)} are: from {names[0]} to {names[-1]} characters."
    ends = f"{names[0]} characters", f"{names[-1]} characters"
    return stretches(
        [counts[digits] for digits in order],
        ends,
        Listing(["characters", "cells"], rows, frozenset({1})),
        told,
    )


def _span(first: int, last: int) -> str:
    return f"{first:,}" if first == last else f"{first:,} to {last:,}"


def _parts(column: ColumnProfile) -> Drawn:
    mark, (counts, least, usual, most) = max(
        column.parts.items(), key=lambda item: sum(item[1][0].values()) - item[1][0][1]
    )
    order = sorted(counts)[:MOST_PARTS]
    rows = [[f"{parts:,}", f"{counts[parts]:,}"] for parts in order]
    shown = {"\n": "line breaks", " ": "spaces"}.get(mark, f'"{mark}"')
    told = f"How many parts the cells of {name(column.name)} have at {shown}: {least} to {most:,}, mostly {usual:,}."
    ends = "1 part" if order[0] == 1 else f"{order[0]} parts", f"{order[-1]:,} parts"
    return stretches(
        [counts[parts] for parts in order],
        ends,
        Listing(["parts", "cells"], rows, frozenset({1})),
        told,
    )


def _null_places(column: ColumnProfile, rows: int) -> Drawn:
    width, counts = column.facts.null_places.over(rows)
    listed = [
        [_span(1 + i * width, min(rows, (i + 1) * width)), f"{count:,}"] for i, count in enumerate(counts)
    ]
    told = f"Where in the file the {column.facts.nulls:,} nulls of {name(column.name)} are."
    ends = "nulls: row 1", f"row {rows:,}"
    return stretches(counts, ends, Listing(["rows", "nulls"], listed, frozenset({1})), told, odd=True)
