from __future__ import annotations

import pytest
from tests.conftest import Run

from mangler.language.mistake import ExitCode, Refusal
from mangler.steps.rename import snake_case

EXTRACT = "Kiln No.,artist,cone\n007,Pim,06\n"


def names(run: Run, steps: str, extract: str = EXTRACT) -> list[str]:
    return list(run(steps, extract).table.column_names)


@pytest.mark.parametrize(
    ("steps", "expected"),
    [
        ("rename cone to size, [Kiln No.] to kiln", ["kiln", "artist", "size"]),
        ("rename maker?, artist? to potter", ["Kiln No.", "potter", "cone"]),
        ("rename maker? to potter", ["Kiln No.", "artist", "cone"]),
        ("rename * snake", ["kiln_no", "artist", "cone"]),
        ("rename * except cone upper, cone to size", ["KILN NO.", "ARTIST", "size"]),
        ("rename cone to artist, artist to cone", ["Kiln No.", "cone", "artist"]),
    ],
)
def test_renaming(run: Run, steps: str, expected: list[str]) -> None:
    assert names(run, steps) == expected


@pytest.mark.parametrize(
    ("steps", "message", "code"),
    [
        ("rename cone to artist", "artist has that name", 1),
        ("rename cone to x, artist to x", "two columns would be x", 2),
        ("rename cone, artist to x", "cannot all become x", 2),
        ("rename * to x", "one name is for one column", 2),
        ("rename artist?, cone? to potter", "has artist and cone", 1),
        ("rename klin to x", 'no column "klin"', 1),
        ("rename cone to x\ntrim cone", "gone since line 2", 2),
        ("rename cone", "to or snake or trim or lower or upper", 2),
    ],
)
def test_what_cannot_be_renamed(run: Run, steps: str, message: str, code: int) -> None:
    with pytest.raises(Refusal, match=message) as refused:
        names(run, steps)
    assert refused.value.code is ExitCode(code)
    assert refused.value.mistakes[0].advice


def test_two_names_that_become_one_in_a_style(run: Run) -> None:
    with pytest.raises(Refusal, match=r"cannot become cone: cone has that name"):
        names(run, "rename /Cone/ snake", "Cone,cone\n1,2\n")


@pytest.mark.parametrize(
    ("name", "snake"),
    [
        ("Fired at?", "fired_at"),
        ("FiredAt", "fired_at"),
        ("fired-at", "fired_at"),
        ("HTTPStatus", "http_status"),
        ("2nd firing", "_2nd_firing"),
        ("Größe (cm)", "größe_cm"),
        ("  x  ", "x"),
        ("°", ""),
    ],
)
def test_snake_case(name: str, snake: str) -> None:
    assert snake_case(name) == snake
