"""A profile on the screen: one line per column, the worst first; or columns in full."""

from __future__ import annotations

from collections.abc import Sequence
from shlex import quote

from rich.cells import cell_len
from rich.console import Console
from rich.text import Text

from mangler.cli.views.cells import visible
from mangler.cli.views.lines import INDENT, print_lines, show_read_as
from mangler.insight.columns.finding import Kind, Proposal, Stage
from mangler.insight.columns.values import rounded
from mangler.insight.profile.profile import ColumnProfile, Profile
from mangler.table.read_words import read_statement
from mangler.table.select import quote_name

SPACE_KINDS = (Kind.OUTER_SPACE, Kind.INNER_SPACE, Kind.UNUSUAL_SPACE)
SHORT = {
    Kind.DATES: "dates as text",
    Kind.NUMBERS: "numbers as text",
    Kind.LISTS: "lists",
    Kind.PAIRS: "pairs",
}
MOST_OF_TABLE = 6
LONGEST_NAME = 20
LEAST_ROOM = 24
LINES_AROUND = 9
"""Lines of the first screen that are no columns."""
BLOCKS = "▁▂▃▄▅▆▇█"
LONGEST_VALUE = 24
LABEL = 12


def show_overview(console: Console, profile: Profile, read: str | None) -> None:
    """One screen: how big the file is, and one line per column."""
    _show_head(console, profile)
    if not profile.rows and not profile.unfit:
        console.print(Text("It has a header and no rows."))
        return
    ordered = profile.worst_first
    shown = ordered
    if console.is_terminal and len(ordered) > max(5, console.height - LINES_AROUND):
        shown = ordered[: max(5, console.height - LINES_AROUND)]
    heads = ("column", "looks like", "nulls", "values", "what is wrong, in how many cells")
    rows = [
        [
            visible(column.name, LONGEST_NAME),
            Text(column.looks),
            _count(column.facts.nulls),
            Text(_distinct(column)),
        ]
        for column in shown
    ]
    room = (
        console.width
        - len(INDENT)
        - sum(
            max(len(head), *(cell_len(row[i].plain) for row in rows)) + 2 for i, head in enumerate(heads[:4])
        )
    )
    for column, row in zip(shown, rows, strict=True):
        row.append(_faults(column, max(room, LEAST_ROOM)))
    console.print()
    print_lines(console, heads, rows, right=(2, 3))
    if len(shown) < len(ordered):
        rest = ordered[len(shown) :]
        wrong = sum(bool(column.faults) for column in rest)
        messages = (
            f"{INDENT}and {len(rest):,} more, {wrong:,} of them with something wrong: --columns '*' shows all"
        )
        console.print(Text(messages, style="dim"), soft_wrap=True)
    _show_table(console, profile)
    console.print()
    _show_ways_on(console, profile, read)


def _show_table(console: Console, profile: Profile) -> None:
    """What is found of the table as a whole, with the question or the step that it leads to."""
    if not profile.table:
        return
    console.print()
    shown = profile.table[:MOST_OF_TABLE] if console.is_terminal else profile.table
    for finding in shown:
        line = Text(INDENT)
        line.append(finding.message)
        if finding.question:
            line.append(f"  {finding.question}", style="yellow")
        if finding.step:
            line.append(f"  {finding.step}", style="dim")
        _print_hanging(console, line, len(INDENT))
    if len(shown) < len(profile.table):
        rest = len(profile.table) - len(shown)
        console.print(Text(f"{INDENT}and {rest} more about the table: --json", style="dim"))


def _show_head(console: Console, profile: Profile) -> None:
    found = ", ".join(f"{what} {found}" for what, found in profile.detected.items())
    rows = f"{profile.rows:,} row{'s' * (profile.rows != 1)}"
    columns = f"{len(profile.all_names):,} column{'s' * (len(profile.all_names) != 1)}"
    console.print(Text.assemble((profile.extract, "bold"), f"  {rows}, {columns}"), soft_wrap=True)
    console.print(Text(found, style="dim"), soft_wrap=True)
    if profile.layout_found:
        show_read_as(console, read_statement(profile.read_as))
    if profile.hint:
        console.print(Text(f"! {profile.hint}", style="yellow"), soft_wrap=True)
    if profile.unfit:
        message = (
            f"! {profile.unfit:,} {'row does' if profile.unfit == 1 else 'rows do'} not fit in the table"
        )
        first = profile.unfit_examples[0]
        console.print(Text(f"{message}; row {first.row:,}: {first.reason}", style="yellow"), soft_wrap=True)


def _show_ways_on(console: Console, profile: Profile, read: str | None) -> None:
    sure = sum(proposal.sure for column in profile.columns for proposal in column.proposals)
    asked = sum(bool(finding.question) for column in profile.columns for finding in column.findings)
    asked += sum(bool(finding.question) for finding in profile.table)
    if not sure and not asked:
        console.print(Text("Nothing is wrong that could be found."))
        return
    console.print(Text(_how_many(profile, sure, asked)))
    if profile.extract.startswith("("):
        return
    name, reading = quote(profile.extract), f" --read {quote(read)}" if read else ""
    first = next((one for one in profile.worst_first if one.proposals), profile.worst_first[0])
    see = f"  See them:  mangler profile {name}{reading} --columns {quote(quote_name(first.name))}"
    console.print(Text(see), soft_wrap=True)
    console.print(Text(f"  A recipe:  mangler draft {name}{reading} --to RECIPE"), soft_wrap=True)


def _how_many(profile: Profile, sure: int, asked: int) -> str:
    """How many steps there are, and how many questions."""
    steps = "1 step" if sure == 1 else f"{sure:,} steps"
    questions = "1 question" if asked == 1 else f"{asked:,} questions"
    if not any(column.faults for column in profile.columns):
        return f"Nothing is wrong that could be found; {steps} would give columns their types."
    if not sure:
        return f"{questions} for you to decide."
    return f"{steps} would correct this{f'; {questions} for you to decide' * bool(asked)}."


def _faults(column: ColumnProfile, room: int) -> Text:
    """What is wrong, with its cells, the most harmful first, as many as there is room for."""
    faults = _together(column)
    if not faults:
        notes = [
            f"{finding.kind} {finding.cells:,}"
            for finding in column.findings
            if finding.kind is Kind.LEADING_ZEROS
        ]
        return Text("; ".join(["nothing", *notes]), style="dim")
    text = Text()
    for index, (message, harm) in enumerate(faults):
        rest = len(faults) - index - 1
        tail = f" +{rest}" if rest else ""
        gap = ", " if index else ""
        if index and len(text) + len(gap) + len(message) + len(tail) > room:
            text.append(f" +{rest + 1}", style="dim")
            break
        text.append(gap)
        text.append(message, style="bold" if harm == 3 else "")
    return text


def _together(column: ColumnProfile) -> list[tuple[str, int]]:
    """Findings of one kind as one; all kinds of white space too."""
    cells: dict[str, int] = {}
    harms: dict[str, int] = {}
    spaced = max((one.cells for one in column.proposals if one.stage is Stage.TRIM), default=0)
    for finding in column.faults:
        if finding.kind in SPACE_KINDS:
            name, cells["white space"] = "white space", spaced or finding.cells
        else:
            name = SHORT.get(finding.kind, str(finding.kind))
            cells[name] = cells.get(name, 0) + finding.cells
        harms[name] = max(harms.get(name, 0), finding.kind.harm)
    ordered = sorted(cells, key=lambda name: (-harms[name], -cells[name]))
    about = (
        {name for name in ordered if name != "white space"}
        if any(one.about for one in column.faults)
        else set()
    )
    return [
        (f"{name} ~{rounded(cells[name]):,}" if name in about else f"{name} {cells[name]:,}", harms[name])
        for name in ordered
    ]


def _distinct(column: ColumnProfile) -> str:
    return f"{column.distinct:,}" if column.distinct_is_exact else f"~{rounded(column.distinct):,}"


def _count(number: int) -> Text:
    return Text(f"{number:,}") if number else Text("–", style="dim")


# Columns in full


def show_columns(console: Console, profile: Profile) -> None:
    """Each column with its figures, what is wrong, and steps ready to be pasted."""
    _show_head(console, profile)
    for column in profile.columns:
        console.print()
        _show_column(console, column)


def _show_column(console: Console, column: ColumnProfile) -> None:
    looks = column.looks if column.looks == column.stored else f"{column.looks}, stored as {column.stored}"
    title = Text.assemble(visible(column.name, 60), f"  {looks}")
    title.stylize("bold", 0, len(visible(column.name, 60)))
    console.print(title, soft_wrap=True)
    for label, message in _figures(column):
        line = Text(INDENT)
        line.append(f"{label:<{LABEL}}", style="dim")
        line.append_text(message if isinstance(message, Text) else Text(message))
        _print_hanging(console, line, len(INDENT) + LABEL)
    if column.findings:
        console.print(Text(f"{INDENT}found", style="dim"))
    for finding in column.findings:
        style = "" if finding.is_fault else "dim"
        cells = f"~{rounded(finding.cells):,}" if finding.about else f"{finding.cells:,}"
        line = Text(f"{INDENT * 2}{cells:>11}  ", style=style)
        line.append(f"{finding.message}")
        _print_hanging(console, line, len(INDENT) * 2 + 13)
    sure = [proposal for proposal in column.proposals if proposal.sure]
    if sure:
        console.print(Text(f"{INDENT}steps", style="dim"))
    for proposal in sure:
        console.print(_step(proposal), soft_wrap=True)
    asked = [proposal for proposal in column.proposals if not proposal.sure]
    questions = {finding.question: None for finding in column.findings if finding.question}
    questions.update({proposal.question: None for proposal in asked})
    if questions:
        console.print(Text(f"{INDENT}to decide", style="dim"))
    for question in questions:
        console.print(Text(f"{INDENT * 2}# {question}", style="yellow"), soft_wrap=True)
        for proposal in asked:
            if proposal.question == question:
                console.print(_step(proposal), soft_wrap=True)


def _step(proposal: Proposal) -> Text:
    """The step as it can be pasted, with its cells as a comment."""
    count = f"about {rounded(proposal.cells):,}" if proposal.about else f"{proposal.cells:,}"
    cells = f"{count} cell{'s' * (proposal.cells != 1)}"
    failing = f", {proposal.failing:,} would not convert" if proposal.failing else ""
    return Text.assemble(f"{INDENT * 2}{proposal.step}", (f"  # {cells}{failing}", "dim"))


def _figures(column: ColumnProfile) -> list[tuple[str, str | Text]]:
    facts = column.facts
    figures: list[tuple[str, str | Text]] = []
    shares = [f"{facts.nulls:,} null", f"{facts.empties:,} empty", f"{facts.blanks:,} blank"]
    counts = [
        share
        for share, cells in zip(shares, (facts.nulls, facts.empties, facts.blanks), strict=True)
        if cells
    ]
    figures.append(("cells", ", ".join([f"{facts.cells:,}", *counts])))
    distinct = f"{column.distinct:,}" if column.distinct_is_exact else f"about {rounded(column.distinct):,}"
    values = Text(distinct)
    every = all(cells == 1 for _, cells in column.frequent)
    for index, (value, cells) in enumerate(column.frequent):
        values.append(": " if not index else ", ")
        values.append_text(visible(value, LONGEST_VALUE))
        values.append(f" ×{cells:,}" if not every else "", style="dim")
    if column.distinct > len(column.frequent):
        values.append(" …", style="dim")
    figures.append(("values", values))
    if facts.shortest and facts.longest:
        least, most = facts.shortest[0], facts.longest[0]
        lengths = f"{least:,} characters" if least == most else f"{least:,} to {most:,} characters"
        longest = Text(lengths)
        for label, (_, start) in (("shortest", facts.shortest), ("longest", facts.longest)):
            if least != most:
                longest.append(f"; the {label} ", style="dim")
                longest.append_text(visible(start, LONGEST_VALUE))
        figures.append(("length", longest))
    if facts.broken_lines:
        figures.append(("lines", f"{facts.broken_lines:,} cells have several"))
    figures += _parts(column)
    if column.numbers is not None:
        numbers = column.numbers.numbers
        low, high = _number(numbers.least), _number(numbers.most)
        figures.append(
            ("numbers", f"{low} to {high}, mean {_number(numbers.mean)}, median {_number(numbers.median)}")
        )
        if len(numbers.histogram) > 1:
            figures.append(("histogram", f"{low} {_bars(numbers.histogram)} {high}"))
    if column.dates is not None and column.dates.first:
        figures.append(("dates", f"{column.dates.first} to {column.dates.last}"))
    return figures


def _parts(column: ColumnProfile) -> list[tuple[str, str | Text]]:
    """How many parts each mark would make; nobody counts them by eye."""
    figures: list[tuple[str, str | Text]] = []
    names = {" ": "space", "\n": "line break"}
    for mark, (counts, least, usual, most) in sorted(
        column.parts.items(), key=lambda item: -item[1][0].total() + item[1][0][1]
    ):
        cells = counts.total() - counts[1]
        spread = f"{most} parts" if least == most else f"{least} to {most} parts, mostly {usual}"
        label = "parts at" if not figures else ""
        figures.append((label, f"{names.get(mark, mark):<11}{spread}, in {cells:,} cell{'s' * (cells != 1)}"))
    return figures


def _number(number: float) -> str:
    if number == int(number) and abs(number) < 1e15:
        return f"{int(number):,}"
    return f"{number:,.4g}" if abs(number) < 1000 else f"{number:,.1f}"


def _bars(histogram: Sequence[int]) -> str:
    """A bar a stretch; one that has a cell at all is seen."""
    most = max(histogram)
    return "".join(
        " " if not bar else BLOCKS[min(len(BLOCKS) - 1, bar * len(BLOCKS) // (most + 1))] for bar in histogram
    )


def _print_hanging(console: Console, line: Text, indent: int) -> None:
    """A line that is too wide for the screen goes on under its own text."""
    width = console.width
    if cell_len(line.plain) <= width or not console.is_terminal:
        console.print(line, soft_wrap=True)
        return
    first, *rest = line.wrap(console, width)
    console.print(first)
    if rest:
        following = Text(" ").join(rest)
        for part in following.wrap(console, width - indent):
            console.print(Text(" " * indent).append_text(part))
