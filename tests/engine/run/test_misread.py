"""Where more than a tenth of the rows do not fit, nothing is delivered, and what would fit is proposed."""

from __future__ import annotations

from pathlib import Path

import pytest

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.language.mistake import Refusal

ROWS = "".join(f"{number};2;3\n" for number in range(18))


def clean(folder: Path, text: str, recipe: str = "") -> int:
    (folder / "e.csv").write_text(text)
    return LinkedRecipe.parse(f"mangler 1\n{recipe}").run(folder / "e.csv").summary.balance.set_aside


def test_a_tenth_may_be_unfit_and_one_more_may_not(tmp_path: Path) -> None:
    assert clean(tmp_path, "a;b;c\n" + ROWS + "1;2\n1;2\n") == 2
    with pytest.raises(Refusal, match=r"3 rows of 21 cannot be read as the header says, more than a tenth"):
        clean(tmp_path, "a;b;c\n" + ROWS + "1;2\n" * 3)
    assert clean(tmp_path, "a;b;c\n" + ROWS + "1;2\n" * 3, "tolerate 15%") == 3


@pytest.mark.parametrize(
    ("text", "recipe", "way"),
    [
        ("a;b;c\n" + ROWS + "1;2\n" * 3, "", "write read ragged pad"),
        ("Log;week\n" + "a;b;c\n" + ROWS, "", "tolerate 100%"),
        ("Log, 18, all\na;b;c\n" + ROWS, 'read delimiter ","', 'Write read delimiter ";" header row 2'),
        ("Kiln log\n\na;b;c\n" + ROWS, 'read delimiter ";"', 'Write read delimiter ";" header row 3'),
        ("# log\n#\na;b;c\n" + ROWS, 'read delimiter ";"', 'Write read delimiter ";" comment "#"'),
    ],
)
def test_what_would_fit_is_proposed(tmp_path: Path, text: str, recipe: str, way: str) -> None:
    with pytest.raises(Refusal) as refusal:
        clean(tmp_path, text, recipe)
    assert way in str(refusal.value)


def test_rows_that_were_set_aside_may_all_be_unfit_still(tmp_path: Path) -> None:
    aside = "_file;_row;_step;_reason;a;b\ne.csv;1;2;x;1\ne.csv;2;2;x;3;4\n"
    assert clean(tmp_path, aside) == 1
