"""The sample extracts: kiln logs of shared pottery studios, as they are typed on the day. All made up.

Every extract comes from a generator with a fixed seed, so that documentation and tests can quote its rows.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from datetime import date, datetime, timedelta
from pathlib import Path
from random import Random

from mangler.kernels.text.rendering import Layout, quote_text
from mangler.late_dataclass import dataclass

COLUMNS = (
    "kiln",
    "studio",
    "potter",
    "contacts",
    "fired_at",
    "cone",
    "peak_c",
    "pieces",
    "glazes",
    "shelf",
    "result",
    "notes",
)
ROWS = 60
WEEK_18 = date(2026, 4, 27)
"""Its Monday."""
CHUNK = 20_000
MOST_ROWS = 1_000_000
"""Of the workbook: a sheet has no more."""

TITLES = ("Dr. ", "Ms. ", "Mr. ", "", "", "", "", "")
TITLED = ("Dr. ", "Ms. ", "Mr. ")
FIRST = ("Ines", "Tove", "Pim", "Anouk", "Lars", "Mirela", "Odd", "Zoë", "Bao", "Kofi", "Ruth", "Émile")
MIDDLE = ("", "", "", "K. ", "M. ", "J. ")
LAST = ("Kallo", "Aslan", "Verhoe", "Lindqvist", "Ó Briain", "Marchetti", "Sato", "Danso", "Weber", "Nagy")
STUDIOS = {
    "clayworks": (
        "Clay Works",
        "Clay Works",
        "Clay Works",
        " clay works",
        "Clay  Works ",
        "Clay\u00a0Works",
        "",
    ),
    "quayside": ("Quayside", "Quayside", "Quayside", "quayside ", "\u2009Quayside", "QUAYSIDE"),
}
KILNS = {"clayworks": ("007", "012", "031", "044"), "quayside": ("003", "007", "115")}
CONES = ("06", "6", "10", "04", "9")
PEAKS = ("1222", " 1222 ", "1.222", "1222 °C", "998", "998 °C", "1.060", "1285", "tbc", "1060\u00a0°C")
FORMS = ("bowl", "vase", "mug", "plate", "tile", "tea bowl")
GLAZES = ("celadon", "tenmoku", "Tenmoku", "temoku", "ash", "shino", "none", "", "cobalt")
SHELVES = ("A/2/left", "A/1/right", "B/1", "B/2/left", "C", "")
RESULTS = ("good", "good", "Good ", "GOOD", "cracked", "Cracked", "-", "n/a", "N/A", "")
NOTES = (
    "",
    "",
    "",
    "",
    "slow cooling",
    "slow  cooling ",
    "lid stuck, freed with a knife",
    "shelf 2 warped;\nreplace before next firing",
    'batch: 14 "speckled" end of batch',
    "batch: 15\ntest tiles on top\nend of batch",
    "?",
    "None",
)


@dataclass(frozen=True)
class SampleExtract:
    """One extract of the scenario. `drifted`: another delimiter, a column more, and what nobody had seen."""

    file: str
    studio: str
    week: int
    line_end: str = "\n"
    byte_order_mark: bool = False
    drifted: bool = False
    form: str = "text"
    """`text`, `workbook`, or `objects`."""
    ragged: bool = False


EXTRACTS = (
    SampleExtract("clayworks-week-18.csv", "clayworks", 18),
    SampleExtract("clayworks-week-19.csv", "clayworks", 19),
    SampleExtract("clayworks-week-20.csv", "clayworks", 20, drifted=True),
    SampleExtract("quayside-week-19.csv", "quayside", 19, "\r\n", byte_order_mark=True, ragged=True),
    SampleExtract("clayworks-week-21.xlsx", "clayworks", 21, form="workbook"),
    SampleExtract("quayside-week-21.jsonl", "quayside", 21, form="objects"),
)

KILN_TABLE = (
    ("kiln", "studio", "fuel", "volume"),
    ("003", "Quayside", "gas", "400"),
    ("007", "Clay Works", "electric", "220"),
    ("012", "Clay Works", "electric", "90"),
    ("031", "Clay Works", "wood", "1200"),
    ("044", "Clay Works", "gas", "350"),
    ("115", "Quayside", "electric", "60"),
)


def write_sample(folder: Path, rows: int = ROWS) -> None:
    """Writes extracts, reference table and recipe into a folder that is there and has none of them."""
    from importlib.resources import files

    (folder / "extracts").mkdir()
    for extract in EXTRACTS:
        write = {"text": write_extract, "workbook": write_workbook, "objects": write_objects}[extract.form]
        write(folder / "extracts" / extract.file, extract, rows)
    (folder / "kilns.csv").write_text("".join(";".join(row) + "\n" for row in KILN_TABLE), "utf-8")
    recipe = files("mangler.sample").joinpath("kiln-log.mangler").read_text("utf-8")
    (folder / "kiln-log.mangler").write_text(recipe, "utf-8")


def write_extract(path: Path, extract: SampleExtract, rows: int = ROWS) -> None:
    """Writes one extract with so many rows."""
    layout = Layout("," if extract.drifted else ";", '"', extract.line_end)
    columns = [*COLUMNS, "firing_id"] if extract.drifted else list(COLUMNS)
    with path.open("wb") as file:
        file.write(b"\xef\xbb\xbf" if extract.byte_order_mark else b"")
        file.write((layout.delimiter.join(columns) + layout.line_end).encode())
        for number, cells in enumerate(_rows(extract, rows), 1):
            if extract.ragged and number == 23:
                cells = cells[:5]
            line = layout.delimiter.join(
                cell if cell.isalnum() or cell == "" else quote_text(cell, layout) for cell in cells
            )
            if extract.drifted and number == 31:
                line += f"{layout.delimiter}see above"
            file.write((line + layout.line_end).encode())


def write_workbook(path: Path, extract: SampleExtract, rows: int = ROWS) -> None:
    """Writes an extract as a workbook: a title with a sum in it, an empty row, kilns merged over their firings."""
    import xlsxwriter

    rows = min(rows, MOST_ROWS)
    book = xlsxwriter.Workbook(str(path), {"constant_memory": False})
    book.set_properties({"created": datetime(1980, 1, 1)})
    moment, bold = book.add_format({"num_format": "yyyy-mm-dd hh:mm"}), book.add_format({"bold": True})
    middle = book.add_format({"valign": "top"})
    sheet = book.add_worksheet("Log")
    sheet.write_string(0, 1, f"Kiln log, {STUDIOS[extract.studio][0]}, week {extract.week}", bold)
    names = [*COLUMNS, "counted"]
    for index, name in enumerate(names, 1):
        sheet.write_string(2, index, name, bold)
    every = sorted(_rows(extract, rows), key=lambda cells: cells[0])
    counts = [sum(map(int, re.findall(r"[0-9]+", cells[COLUMNS.index("pieces")]))) for cells in every]
    for number, (cells, count) in enumerate(zip(every, counts, strict=True), 3):
        for index, (name, cell) in enumerate(zip(COLUMNS, cells, strict=True), 1):
            if name == "fired_at":
                sheet.write_datetime(number, index, _moment(cell), moment)
            elif name == "peak_c" and cell.isdigit():
                sheet.write_number(number, index, int(cell))
            elif name != "kiln" and cell:
                sheet.write_string(number, index, cell)
        sheet.write_number(number, len(names), count)
    for start, end, kiln in _runs([cells[0] for cells in every]):
        if start == end:
            sheet.write_string(3 + start, 1, kiln)
        else:
            sheet.merge_range(3 + start, 1, 3 + end, 1, kiln, middle)
    column = chr(ord("A") + len(names))
    sheet.write_string(0, len(names) - 1, "pieces", bold)
    sheet.write_formula(0, len(names), f"=SUM({column}4:{column}{3 + len(every)})", None, sum(counts))
    studios = book.add_worksheet("Studios")
    for number, (name, spellings) in enumerate([("studio", ("written as",)), *STUDIOS.items()]):
        studios.write_string(number, 0, name)
        studios.write_string(number, 1, spellings[0])
    book.close()


def _moment(text: str) -> datetime:
    return datetime.strptime(text, "%d/%m/%Y %H:%M" if "/" in text else "%Y-%m-%d %H:%M")


def _runs(values: list[str]) -> Iterator[tuple[int, int, str]]:
    """Where equal values follow one another: from, to, and the value."""
    start = 0
    for index, value in enumerate(values):
        if index + 1 == len(values) or values[index + 1] != value:
            yield start, index, value
            start = index + 1


def write_objects(path: Path, extract: SampleExtract, rows: int = ROWS) -> None:
    """Writes an extract as an app does it: one object per line, potters as objects, glazes as lists."""
    import orjson

    with path.open("wb") as file:
        for cells in _rows(extract, rows):
            row: dict[str, object] = {name: cell or None for name, cell in zip(COLUMNS, cells, strict=True)}
            title = next((one for one in TITLED if cells[2].startswith(one)), "")
            row["potter"] = {"name": cells[2].removeprefix(title), "title": title.strip() or None}
            row["glazes"] = [glaze for glaze in cells[COLUMNS.index("glazes")].split("; ") if glaze]
            digits = re.sub(r"[^0-9]", "", cells[COLUMNS.index("peak_c")])
            row["peak_c"] = int(digits) if digits else None
            row["fired_at"] = _moment(cells[COLUMNS.index("fired_at")]).isoformat()
            file.write(orjson.dumps(row) + b"\n")


def _rows(extract: SampleExtract, count: int) -> Iterator[list[str]]:
    """Rows of cells; an empty cell is null. Made some thousand at a time, a column at once, for speed."""
    random = Random(f"{extract.studio} {extract.week}")
    number = 0
    while number < count:
        size = min(CHUNK, count - number)
        pick = random.choices
        names = list(
            zip(
                pick(TITLES, k=size),
                pick(FIRST, k=size),
                pick(MIDDLE, k=size),
                pick(LAST, k=size),
                strict=True,
            )
        )
        columns = [
            pick(KILNS[extract.studio], k=size),
            pick(STUDIOS[extract.studio], k=size),
            ["".join((title, first, " ", middle, last)) for title, first, middle, last in names],
            [_contacts(random, first) for _, first, _, _ in names],
            [_fired_at(random, extract.week) for _ in range(size)],
            pick(CONES, k=size),
            pick((*PEAKS, "pending") if extract.drifted else PEAKS, k=size),
            [_pieces(random, extract.drifted) for _ in range(size)],
            [_glazes(random) for _ in range(size)],
            pick(SHELVES, k=size),
            pick((*RESULTS, "tba") if extract.drifted else RESULTS, k=size),
            pick(NOTES, k=size),
        ]
        if extract.drifted:
            columns.append([f"F{extract.week}-{number + i + 1:04}" for i in range(size)])
        yield from map(list, zip(*columns, strict=True))
        number += size


def _contacts(random: Random, first: str) -> str:
    own = f"{first.lower().replace('ë', 'e').replace('é', 'e')}@example.org"
    return random.choice(
        (own, f"{own}; studio@example.org", f"{own};kiln@example.org ; studio@example.org", "")
    )


def _fired_at(random: Random, week: int) -> str:
    day = WEEK_18 + timedelta(weeks=week - 18, days=random.randrange(7))
    hour, minute = random.randrange(6, 23), random.choice((0, 15, 30, 45))
    if random.random() < 0.7:
        return f"{day:%Y-%m-%d} {hour:02}:{minute:02}"
    return f"{day:%d/%m/%Y} {hour}:{minute:02}"


def _pieces(random: Random, drifted: bool) -> str:
    forms = random.sample(FORMS, random.randint(1, 4 if drifted else 3))
    marks = random.choices(("=", "=", "=", "-", ""), k=len(forms))
    counts = random.choices(("4", "3", "12", "1", ""), k=len(forms))
    return ", ".join(
        form if not mark else f"{form}{mark}{count}"
        for form, mark, count in zip(forms, marks, counts, strict=True)
    )


def _glazes(random: Random) -> str:
    return "; ".join(random.choices(GLAZES, k=random.randint(1, 4)))
