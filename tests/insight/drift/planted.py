"""Changes that are planted in an ordinary week, each with the cause that is to be found, in which column."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import datetime
from random import Random

from tests.insight.drift.processes import Process, Table

from mangler.insight.fingerprint.change import Change

FORMS = ("%Y-%m-%d %H:%M", "%Y-%m-%dT%H:%M:%S", "%Y-%m-%d", "%d.%m.%Y", "%d/%m/%Y")


@dataclass(frozen=True)
class Planted:
    """`change` alters a week's table; `details` how the file is read. `column` says where the cause is looked for."""

    name: str
    cause: Change | tuple[Change, ...]
    change: Callable[[Table, Process, Random], Table | None] = lambda table, process, r: None
    column: Callable[[Process], str] = lambda process: ""
    details: dict[str, str] = field(default_factory=dict)
    ordinary_in: tuple[str, ...] = ()
    """Processes in which such a change is nothing unusual: it is not planted there."""


def _each(
    choose: Callable[[Process], str], change: Callable[[str], str | None], share: float = 1.0
) -> Callable[[Table, Process, Random], None]:
    """Changes cells of a column, all or a share of them, at least three."""

    def plant(table: Table, process: Process, r: Random) -> None:
        cells = table[choose(process)]
        filled = [i for i, cell in enumerate(cells) if cell is not None]
        hit = filled if share == 1.0 else r.sample(filled, max(3, round(share * len(filled))))
        for index in hit:
            cells[index] = change(cells[index] or "")

    return plant


def _other_form(text: str) -> str:
    for form in FORMS:
        try:
            moment = datetime.strptime(text, form)
        except ValueError:
            continue
        if "%H" in form:
            return f"{moment:%d/%m/%Y %H:%M}"
        return f"{moment:%Y/%m/%d}" if form != "%Y-%m-%d" else f"{moment:%d.%m.%Y}"
    raise ValueError(text)


def _grouped(text: str) -> str:
    return f"{float(text) * 1000:,.2f}"


def _renamed(table: Table, process: Process, r: Random) -> Table:  # noqa: ARG001
    return {f"{name}s" if name == process.few else name: cells for name, cells in table.items()}


def _gone(table: Table, process: Process, r: Random) -> None:  # noqa: ARG001
    table.pop(process.code)


def _new(table: Table, process: Process, r: Random) -> None:
    table["checked_by"] = [r.choice(("Eef", "Ulla")) for _ in table[process.key]]


def _moved(table: Table, process: Process, r: Random) -> Table:  # noqa: ARG001
    return dict(reversed(table.items()))


def _other_word(table: Table, process: Process, r: Random) -> None:  # noqa: ARG001
    """Every cell of one value has another word now."""
    cells = table[process.few]
    old = max(filter(None, set(cells)), key=cells.count)
    table[process.few] = ["something else" if cell == old else cell for cell in cells]
    known = dict(zip(cells, table[process.follows], strict=True))
    table[process.follows] = [known[cell] for cell in cells]


def _shares(table: Table, process: Process, r: Random) -> None:
    """One value of a closed set takes most cells; what follows from it goes along."""
    cells, other = table[process.few], table[process.follows]
    pairs = dict(zip(cells, other, strict=True))
    rare = min(filter(None, set(cells)), key=cells.count)
    for index in range(len(cells)):
        if r.random() < 0.75:
            cells[index], other[index] = rare, pairs[rare]


def _repeated(table: Table, process: Process, r: Random) -> None:
    cells = table[process.key]
    for index in r.sample(range(1, len(cells)), max(3, len(cells) // 10)):
        cells[index] = cells[index - 1]


def _broken(table: Table, process: Process, r: Random) -> None:
    cells = table[process.follows]
    values = sorted({cell for cell in cells if cell})
    for index in r.sample(range(len(cells)), max(4, len(cells) // 10)):
        cells[index] = r.choice([value for value in values if value != cells[index]])


def _fewer_rows(table: Table, process: Process, r: Random) -> Table:  # noqa: ARG001
    keep = max(10, len(table[process.key]) // 4)
    return {name: cells[:keep] for name, cells in table.items()}


def _more_rows(table: Table, process: Process, r: Random) -> Table:  # noqa: ARG001
    keys = table[process.key]
    more = {name: cells * 4 for name, cells in table.items()}
    more[process.key] = (
        [f"{(key or '')[:-1]}{tail}" for tail in "6789" for key in keys]
        if len(set(keys)) < 9
        else [_next(key or "", i * len(keys)) for i in range(4) for key in keys]
    )
    return more


def _next(key: str, by: int) -> str:
    """A running key, so many numbers further on."""
    digits = "".join(filter(str.isdigit, key[-5:]))
    tail = key[-len(digits) :]
    return key[: -len(tail)] + f"{(int(tail) + by) % 10 ** len(tail):0{len(tail)}}"


def _far(table: Table, process: Process, r: Random) -> None:  # noqa: ARG001
    cells = table[process.amount]
    index = next(i for i, cell in enumerate(cells) if cell is not None)
    cells[index] = "999999.99"


def few(process: Process) -> str:
    return process.few


def amount(process: Process) -> str:
    return process.amount


def code(process: Process) -> str:
    return process.code


def key(process: Process) -> str:
    return process.key


def day(process: Process) -> str:
    return process.day


def listed(process: Process) -> str:
    return process.listed


PLANTED = (
    Planted("another delimiter", Change.DELIMITER, details={"delimiter": ","}),
    Planted("another encoding", Change.ENCODING, details={"encoding": "Windows-1252"}),
    Planted("every field in quotes", Change.QUOTING, details={"quoting": "every field"}),
    Planted("a column gone", Change.COLUMN_GONE, _gone, code),
    Planted("a column more", Change.COLUMN_NEW, _new, lambda process: "checked_by"),
    Planted("a column renamed", Change.COLUMN_RENAMED, _renamed, few),
    Planted("columns in another order", Change.MOVED, _moved),
    Planted("a new value", Change.NEW_VALUE, _each(few, lambda cell: "unheard of", 0.05), few),
    Planted("another word for a value", Change.NEW_VALUE, _other_word, few),
    Planted("spaces behind words", Change.WHITE_SPACE, _each(few, lambda cell: f"{cell} "), few),
    Planted("spaces before some codes", Change.WHITE_SPACE, _each(code, lambda cell: f" {cell}", 0.2), code),
    Planted("another letter case", Change.LETTER_CASE, _each(few, str.upper), few),
    Planted("some in another letter case", Change.LETTER_CASE, _each(few, str.title, 0.1), few),
    Planted("another date form", Change.WRITTEN, _each(day, _other_form), day),
    Planted("some in another date form", Change.WRITTEN, _each(day, _other_form, 0.1), day),
    Planted("decimal commas", Change.WRITTEN, _each(amount, lambda cell: cell.replace(".", ",")), amount),
    Planted("marks between thousands", Change.WRITTEN, _each(amount, _grouped), amount),
    Planted("a unit behind numbers", Change.WRITTEN, _each(amount, lambda cell: f"{cell} kg"), amount),
    Planted("cents for units", Change.SCALE, _each(amount, lambda cell: f"{float(cell) * 100:.2f}"), amount),
    Planted(
        "a third of the amounts",
        Change.TOTAL,
        _each(amount, lambda cell: f"{float(cell) * 0.3:.2f}"),
        amount,
        ordinary_in=("harvest",),
    ),
    Planted(
        "zeros in front gone",
        (Change.WRITTEN, Change.LENGTH),
        _each(code, lambda cell: cell.lstrip("L").lstrip("0") or "0"),
        code,
    ),
    Planted("codes in another pattern", Change.WRITTEN, _each(code, lambda cell: f"X/{cell}"), code),
    Planted("many nulls", Change.NULLS, _each(code, lambda cell: None, 0.5), code),
    Planted("a word among numbers", Change.WRITTEN, _each(amount, lambda cell: "n/a", 0.1), amount),
    Planted("other shares", Change.SHARES, _shares, few),
    Planted("keys that repeat", Change.KEY, _repeated, key),
    Planted("what followed does not follow", Change.FOLLOWS, _broken, lambda process: process.follows),
    Planted("a quarter of the rows", Change.ROWS, _fewer_rows),
    Planted("four times the rows", Change.ROWS, _more_rows),
    Planted(
        "more parts",
        Change.MORE_PARTS,
        _each(listed, lambda cell: f"{cell}; {cell}; {cell}; one", 0.05),
        listed,
    ),
    Planted("a number far out", Change.RANGE, _far, amount),
)
