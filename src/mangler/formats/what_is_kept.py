"""What happens to each type in each format when it is written and read back; the tests measure every entry."""

from __future__ import annotations

from enum import StrEnum


class Outcome(StrEnum):
    KEPT = "kept"
    """The type and every value."""
    VALUE = "values"
    """Every value, in another type."""
    ANOTHER = "changed"
    """As a text, or not exactly."""
    REFUSED = "refused"
    """Nothing is written, and the message names a way."""


FORMATS = {
    "text": ".csv",
    "jsonl": ".jsonl",
    "json": ".json",
    "parquet": ".parquet",
    "arrow": ".arrow",
    "arrows": ".arrows",
    "workbook": ".xlsx",
}
"""The word of each format that is written, and its ending."""
_LETTERS = {"K": Outcome.KEPT, "V": Outcome.VALUE, "A": Outcome.ANOTHER, "R": Outcome.REFUSED}
_MEASURED = """
boolean                  AKKKKKK
int8                     AVVKKKV
int16                    AVVKKKV
int32                    AVVKKKV
int64                    AKKKKKA
uint8                    AVVKKKV
uint16                   AVVKKKV
uint32                   AVVKKKV
uint64                   AKKKKKA
float16                  AVVKKKV
float32                  AAAKKKA
float64                  AKKKKKK
decimal32                AAAKKKA
decimal64                AAAKKKA
decimal128               AAAKKKA
decimal of many digits   AAAKKKA
decimal of many places   AAAKKKA
decimal256               RAAKKKR
date32                   AAAKKKA
date64                   AAAVKKA
time32 s                 AAAVKKV
time32 ms                AAAKKKV
time64 us                AAAKKKA
time64 ns                AAAKKKA
timestamp s              AAAVKKV
timestamp ms             AAAKKKV
timestamp us             AAAKKKA
timestamp ns             AAAKKKA
timestamp us in a zone   AAAKKKA
timestamp ns in UTC      AAAKKKA
duration                 RAAKKKR
interval                 RAARKKR
text                     KKKKKKA
large text               VVVKKKA
text view                VVVKKKA
dictionary of texts      VVVKKKV
ordered dictionary       VVVKKKV
dictionary of integers   AVVVKKV
run ends                 VVVRKKV
nothing                  VVVKKKV
binary                   RAAKKKR
large binary             RAAKKKR
binary view              RAAKKKR
fixed binary             RAAKKKR
list of texts            RKKKKKR
large list of texts      RVVKKKR
list view of texts       RVVKKKR
fixed list of texts      RVVKKKR
list of integers         RKKKKKR
list of floats           RKKKKKR
list of booleans         RKKKKKR
list of lists            RAAKKKR
struct                   RAAKKKR
list of structs          RAAKKKR
map                      RAAKKKR
union                    RAARRRR
uuid                     RAAKKKR
json                     VKKKKKV
"""
KEPT: dict[str, dict[str, Outcome]] = {word: {} for word in FORMATS}
"""For each format, what happens to each type."""
for _line in _MEASURED.strip().splitlines():
    _name, _letters = _line[:25].strip(), _line[25:]
    for _word, _letter in zip(FORMATS, _letters, strict=True):
        KEPT[_word][_name] = _LETTERS[_letter]


def alike() -> list[tuple[list[str], tuple[Outcome, ...]]]:
    """The types with the same outcome in every format, together, in the order of the first of each."""
    found: dict[tuple[Outcome, ...], list[str]] = {}
    for name in KEPT["text"]:
        found.setdefault(tuple(KEPT[word][name] for word in FORMATS), []).append(name)
    return [(names, outcomes) for outcomes, names in found.items()]
