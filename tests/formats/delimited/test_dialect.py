from __future__ import annotations

from pathlib import Path

import pytest

from mangler.formats.contract import ReadRequest
from mangler.formats.delimited.delimiter_search import find_delimiter
from mangler.formats.registry import open_source
from mangler.table.settings import ReadSettings


@pytest.mark.parametrize(
    ("sample", "delimiter"),
    [
        (b"a,b,c\n1,2,3\n", ","),
        (b"a;b\n1,5;2,5\n3,5;4,5\n", ";"),
        (b"a\tb\n1\t2\n", "\t"),
        (b"a|b|c\n1|2;3;4;5|3\n", "|"),
        (b'a;b\n"x,y,z";"1,2"\n', ";"),
        ("a¦b\n1¦2\n".encode(), "¦"),
        (b"when:what,who\n10:30,a\n11:45,b\n", ","),
        (b"name\nPim\nTove\n", None),
        (b"name\nVerhoe, Pim\nAslan, Tove\n", None),
    ],
)
def test_the_delimiter_is_detected(sample: bytes, delimiter: str | None) -> None:
    found = find_delimiter(sample, '"', complete=True)
    assert (found.text if found else None) == delimiter


def test_what_was_detected_is_reported(tmp_path: Path) -> None:
    path = tmp_path / "e.csv"
    path.write_bytes(b"\xef\xbb\xbfa\tb\r\n1\t2\r\n")
    extract = open_source(str(path))
    extract.close()
    assert extract.detected == {
        "delimiter": "tab",
        "line ends": "CRLF",
        "encoding": "UTF-8 with byte order mark",
    }


def test_a_delimiter_that_fits_better_explains_missing_columns(tmp_path: Path) -> None:
    path = tmp_path / "e.csv"
    path.write_bytes(b"a,b,c\n1,2,3\n")
    extract = open_source(str(path), ReadRequest(ReadSettings(delimiter=";")))
    extract.close()
    why = extract.explain_missing()
    assert why is not None and why.better.delimiter is None and why.clause == "delimiter"
    assert 'has 1 column when it is split at ";", and 3 when it is split at ","' in why.message
