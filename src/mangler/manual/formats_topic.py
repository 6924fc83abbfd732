"""The page about formats: how each is known, read and written, and what it keeps of each type."""

from __future__ import annotations

import textwrap

from mangler.formats.what_is_kept import FORMATS, alike

NAMES_WIDTH = 34

HEAD = """\
A file's format is detected from its content, whatever its name. `read format` says it where that does not do. An
output has the format of its name's ending; `write format` says it otherwise, and without either it is that of the
extract.

- `text`: delimited text and columns of a fixed width. Endings `.csv`, `.tsv`, `.tab`, `.txt`, `.psv`, `.dat`. Every
  column is text. `write widths 8, 12, 3` writes columns of a fixed width.
- `jsonl`: JSON Lines, one object per line. Endings `.jsonl`, `.ndjson`.
- `json`: an array of objects. Ending `.json`. Objects one after the other in any layout are read too.
- `parquet`: Parquet. Endings `.parquet`, `.pq`.
- `arrow`, `arrows`: an Arrow file and an Arrow stream. Endings `.arrow`, `.feather`, `.ipc`, and `.arrows`.
- `workbook`: Office Open XML. Ending `.xlsx`. Its binary form `.xlsb`, the older `.xls` and OpenDocument's `.ods` are
  read, and written as `.xlsx`.

Types are the file's. A column that no step changes is written in the very type in which it was read: small integers,
decimals with their places, timestamps with their unit and zone, dictionaries, lists. A step sees all whole numbers as
`integer`, short floats as `float`, a timestamp of a zone as its clock shows it. Types that steps do not know, such as
binary, durations, maps and structs, are handed on as they are: `convert … to text` makes a text of them, in
expressions `text(x)`, `x is null` and `count(x)` work.

- A clause of `read` or `write` that means nothing for a format is ignored with a remark, so that one recipe reads
  this week's workbook and next week's text. Beside `format` it is a mistake.
- `nulls`, `called`, `names completed` and `guard formulas` mean the same for every format.
- Rows set aside go to a file in the extract's own format, `NAME.aside.parquet`, with `_file`, `_row`, `_step` and
  `_reason` in front. Once corrected, it runs with the same recipe.
- A zip or tar file with one file in it is read as that file; an output named `.csv.zip` is packed as zip. Behind `#`
  an address names a part of a file: `logs.zip#week-19.csv`, `book.xlsx#Log`, `book.xlsx#2`. With `*` each part is an
  extract of its own: `'book.xlsx#*'`, `'logs/*.zip#*.csv'`. A file of the whole name wins.
- A file that is cut off, damaged or locked with a password is refused with exit code 3, and nothing is delivered. What
  would unpack to more than `--memory` is refused before.
"""

JSON = """\
## JSON

- Columns and types are those of the whole file, so it is read to its end before the first row is cleaned.
- Nested objects become columns with dotted names, `potter.name`; JSON that is written puts them into objects again.
  Lists of texts, numbers or truth values are lists. Other lists, and columns that hold objects beside other values, are
  JSON in a text, and are written as such again. Texts beside numbers are texts; the summary says which columns.
- Numbers are exact: whole numbers beyond 64 bits, and numbers with more digits than a float holds, are decimals or
  texts.
- A line that is not JSON or not an object, or that has a key twice, NaN, or half of a character, is set
  aside. In the file of rows set aside it is a text under `_text`.
"""

WORKBOOKS = """\
## Workbooks

- The table starts at the first row of which more than half of the columns are filled: a title fills fewer. `header row`
  says another row, as the sheet numbers it. Empty rows and empty margins are no part of the table.
- Dates, times, numbers and truth values have their types; a column of several kinds is text, and the summary says so.
  Formulas give the values that were stored with them. Cells with an error are null. The first cell of a merged area has
  its value, with `merged repeat` every one has.
- A cell holds numbers of 15 digits: longer ones are written as texts, and whole numbers beyond 2^53 that a workbook
  holds as numbers were rounded by the program that wrote it. Of `.ods` files truth values come as 1 and 0, and merged
  areas are not known.
- Hidden sheets count only where they are named.
- A workbook is read as a whole, in a process of its own, which takes about 150 bytes of memory per cell: 2.4 million
  cells take 390 MB. Writing takes constant memory.
- A sheet has at most 1,048,576 rows and 16,384 columns, and a cell 32,767 characters. More is refused, and nothing is
  delivered. The same rows give the same bytes: the date in the file is always 1980-01-01.
"""

FORMULAS = """\
## Formulas in cells

A spreadsheet program that opens delimited text runs a cell as a formula when it starts with `=` or `@`, with a tab or a
line break, or with `+` or `-` before something other than a number. A run warns of such texts. `write guard formulas`
puts a `'` in front of them, and `read guard formulas` takes it off again. Workbooks hold them as texts.
"""


def formats_text() -> str:
    """The page, with the table of types."""
    return f"{HEAD}\n{JSON}\n{WORKBOOKS}\n{FORMULAS}\n{_table()}"


def _table() -> str:
    """What each format keeps of each type, types with the same outcomes together."""
    lines = [
        "## What is kept of each type",
        "",
        "Written and read back. `kept`: type and values. `values`: the same values in another type. `changed`: as a",
        "text, or not to the last digit. `refused`: before anything is written, with a way out. Measured with",
        "values at the edges of each type, with nulls and empty texts.",
        "",
        "- In text all values are spelled so that `convert` reads them back exactly.",
        "- In JSON decimals are numbers, which come back as floats; dates and times are texts in ISO 8601, bytes are",
        "  hexadecimal, objects come back as columns.",
        "- In workbooks numbers of more than 15 digits are texts, decimals are numbers, an empty text is an empty",
        "  cell, a zone and parts of a second below a thousandth are lost; the summary says so.",
        "",
        "```",
        " " * NAMES_WIDTH + "  ".join(f"{word:8}" for word in FORMATS).rstrip(),
    ]
    for names, outcomes in alike():
        first, *more = textwrap.wrap(", ".join(names), NAMES_WIDTH - 2)
        lines.append(f"{first:{NAMES_WIDTH}}" + "  ".join(f"{outcome:8}" for outcome in outcomes).rstrip())
        lines += more
    return "\n".join([*lines, "```"]) + "\n"
