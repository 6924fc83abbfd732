from __future__ import annotations

import json
from pathlib import Path

import pytest
from tests.cli.program import mangler, said

from mangler.sample.generate import EXTRACTS, write_sample


@pytest.fixture
def work(tmp_path: Path) -> Path:
    write_sample(tmp_path)
    return tmp_path


def deliver(work: Path, *weeks: int) -> None:
    files = [f"extracts/clayworks-week-{week}.csv" for week in weeks]
    assert mangler("run", "kiln-log.mangler", *files, "--to", "clean/", cwd=work).returncode == 0


WEEK_20 = "extracts/clayworks-week-20.csv"


def test_without_history_only_what_the_recipe_needs_is_checked(work: Path) -> None:
    done = mangler("check", "kiln-log.mangler", "extracts/clayworks-week-18.csv", cwd=work)
    assert done.returncode == 0
    text = done.stdout.decode()
    assert "no earlier run of such an extract is noted" in text and "It fits: a run would deliver it." in text
    done = mangler("check", "kiln-log.mangler", WEEK_20, cwd=work)
    assert done.returncode == 1
    assert 'has 1 column when it is split at ";", and 13 when it is split at ","' in done.stdout.decode()
    assert not (work / ".mangler").exists()


def test_the_drifted_week_is_reported_with_the_steps_that_it_endangers(work: Path) -> None:
    deliver(work, 18, 19)
    assert mangler("check", "kiln-log.mangler", "extracts/clayworks-week-19.csv", cwd=work).returncode == 0
    done = mangler("check", "kiln-log.mangler", WEEK_20, "--json", cwd=work)
    assert done.returncode == 1
    [extract] = json.loads(done.stdout)["extracts"]
    assert extract["earlier_runs"] == 2 and extract["set_aside"] == 1
    changes = [(one["change"], one["columns"]) for one in extract["findings"]]
    assert changes == [
        ("another delimiter", []),
        ("written otherwise", ["peak_c"]),
        ("values never seen", ["result"]),
        ("more parts than ever", ["pieces"]),
        ("a column more", ["firing_id"]),
    ]
    assert any(step["step"].startswith("split pieces") for step in extract["findings"][3]["steps"])
    text = mangler("check", "kiln-log.mangler", WEEK_20, cwd=work).stdout.decode()
    assert '! result: values never seen: "tba" in 2' in text
    assert '    line 20: nullify "-", "n/a" in result anycase' in text


def test_a_run_warns_of_the_same_and_strict_stops_it(work: Path) -> None:
    recipe = work / "kiln-log.mangler"
    recipe.write_text(recipe.read_text("utf-8").replace(' delimiter ";"', ""), "utf-8")
    deliver(work, 18, 19)
    strict = mangler("run", "kiln-log.mangler", WEEK_20, "--to", "clean/", "--strict", cwd=work)
    assert strict.returncode == 1 and "5 warnings, which --strict does not allow" in said(strict)
    done = mangler("run", "kiln-log.mangler", WEEK_20, "--to", "clean/", cwd=work)
    assert done.returncode == 0
    assert 'Warning: result: values never seen: "tba" in 2 (see lines 20, 33, 100)' in said(done)
    assert mangler("check", "kiln-log.mangler", WEEK_20, cwd=work).returncode == 0


def test_what_would_stop_a_run_is_reported_without_writing_anything(work: Path) -> None:
    recipe = work / "kiln-log.mangler"
    before = sorted(path.name for path in work.iterdir())
    text = recipe.read_text("utf-8")
    recipe.write_text(f'{text}require no nulls in made because "count them"\n', "utf-8")
    done = mangler("check", "kiln-log.mangler", "extracts/clayworks-week-18.csv", cwd=work)
    assert done.returncode == 1
    assert "20 rows fail in this step" in done.stdout.decode() and "count them" in done.stdout.decode()
    recipe.write_text(f"{text}require no nulls in made failures warn\n", "utf-8")
    done = mangler("check", "kiln-log.mangler", "extracts/quayside-week-19.csv", cwd=work)
    assert done.returncode == 0
    assert "18 rows are not as required" in done.stdout.decode()
    assert "a run would deliver it, and set 1 row aside." in done.stdout.decode()
    recipe.write_text(text.replace("convert made", "drop columns made\nconvert made"), "utf-8")
    done = mangler("check", "kiln-log.mangler", "extracts/clayworks-week-18.csv", cwd=work)
    assert done.returncode == 2 and "gone since line" in done.stdout.decode()
    assert sorted(path.name for path in work.iterdir()) == before


def test_other_studios_are_compared_with_their_own_weeks(work: Path) -> None:
    deliver(work, 18, 19)
    done = mangler("check", "kiln-log.mangler", f"extracts/{EXTRACTS[3].file}", cwd=work)
    assert done.returncode == 0 and "no earlier run" in done.stdout.decode()


def test_a_recipe_alone(work: Path) -> None:
    done = mangler("check", "kiln-log.mangler", cwd=work)
    assert done.returncode == 0 and "kiln-log.mangler has no mistakes" in done.stdout.decode()
    (work / "bad.mangler").write_text("mangler 1\ntrimm a\n")
    done = mangler("check", "bad.mangler", cwd=work)
    assert done.returncode == 2 and "trimm" in said(done)


def test_what_cannot_be_checked(work: Path) -> None:
    done = mangler("check", "kiln-log.mangler", "none.csv", "extracts/clayworks-week-18.csv", cwd=work)
    assert done.returncode == 3 and "none.csv does not exist" in said(done)
    assert "It fits: a run would deliver it." in done.stdout.decode()
    assert "Of 2 extracts 1 fits, 1 would not be delivered." in done.stdout.decode()
    done = mangler("check", "kiln-log.mangler", WEEK_20, "--history", "none.db", cwd=work)
    assert done.returncode == 3 and "there is no history none.db" in said(done)
