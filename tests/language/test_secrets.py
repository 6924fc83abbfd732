"""Parameters from the environment, and the day of the run."""

from __future__ import annotations

from datetime import date, timedelta
from pathlib import Path

import pytest

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.language.mistake import Refusal

SECRET = 'parameter salt from environment "KILN_SALT"\n'
TABLE = "potter\nTove\n"


@pytest.fixture
def extract(tmp_path: Path) -> Path:
    path = tmp_path / "e.csv"
    path.write_text(TABLE)
    return path


def test_a_secret_is_the_key_of_a_hash(extract: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    steps = f"mangler 1\n{SECRET}make code = keyed_hash(potter, salt)"
    codes = set()
    for value in ("one", "two"):
        monkeypatch.setenv("KILN_SALT", value)
        (code,) = LinkedRecipe.parse(steps).run(extract).table.column("code").to_pylist()
        codes.add(code)
        (plain,) = (
            LinkedRecipe.parse(f'mangler 1\nmake c = keyed_hash(potter, "{value}")').run(extract).table["c"]
        )
        assert code == plain.as_py()
    assert len(codes) == 2


@pytest.mark.parametrize(
    "steps",
    [
        "make x = salt",
        'make x = "{salt}"',
        "make x = upper(salt)",
        "keep rows where potter = salt",
        "make x = keyed_hash(salt, 'k')",
        "define h(a, k) = keyed_hash(a, k)\nmake x = h(potter, salt)",
        "fill potter with salt",
        "make x = if potter = salt then 1 else 0",
    ],
)
def test_everything_else_is_refused(extract: Path, monkeypatch: pytest.MonkeyPatch, steps: str) -> None:
    monkeypatch.setenv("KILN_SALT", "m4rked-v4lue")
    with pytest.raises(Refusal) as refusal:
        LinkedRecipe.parse(f"mangler 1\n{SECRET}{steps}").run(extract)
    assert refusal.value.mistakes[0].word == "secret-in-the-clear"
    assert "m4rked" not in str(refusal.value) and "keyed_hash(COLUMN, salt)" in str(refusal.value)


@pytest.mark.parametrize(("value", "says"), [(None, "is not set"), ("", "is empty")])
def test_a_variable_that_is_missing(monkeypatch: pytest.MonkeyPatch, value: str | None, says: str) -> None:
    monkeypatch.delenv("KILN_SALT", raising=False)
    if value is not None:
        monkeypatch.setenv("KILN_SALT", value)
    with pytest.raises(Refusal, match=f"KILN_SALT of the environment {says}"):
        LinkedRecipe.parse(f"mangler 1\n{SECRET}")


def test_it_is_not_set_on_the_command_line(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("KILN_SALT", "x")
    with pytest.raises(Refusal, match="a command line is seen by others"):
        LinkedRecipe.parse(f"mangler 1\n{SECRET}", parameters={"salt": "y"})


def test_a_column_of_its_name_cannot_be_told_apart(extract: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("KILN_SALT", "x")
    steps = f"mangler 1\n{SECRET}make salt = 'a'\nmake code = keyed_hash(potter, salt)"
    with pytest.raises(Refusal, match="is a parameter and a column"):
        LinkedRecipe.parse(steps).run(extract)


def test_the_day_of_the_run_is_fixed_or_today(extract: Path) -> None:
    steps = "mangler 1\ndefine age(d) = days_between(d, run_date())\nmake d = run_date(), n = age(date('2026-05-01'))"
    row = LinkedRecipe.parse(steps, run_date=date(2026, 5, 4)).run(extract).table.to_pylist()[0]
    assert (row["d"], row["n"]) == (date(2026, 5, 4), 3)
    before = date.today()
    today = LinkedRecipe.parse(steps).run(extract).table.to_pylist()[0]["d"]
    assert before <= today <= before + timedelta(days=1)
