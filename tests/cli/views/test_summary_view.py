from __future__ import annotations

import io
from collections import Counter

import pytest
from rich.console import Console

from mangler.cli.completion import complete_extracts, complete_recipes
from mangler.cli.views.summary_view import duration, show_summary
from mangler.engine.run.summary import StepLine, Summary
from mangler.jobs.output_paths import plan_outputs
from mangler.table.tally import Tally


def shown(width: int) -> list[str]:
    out = io.StringIO()
    summary = Summary("r.mangler", "Kiln log", "week.csv", output="clean.csv")
    tally = Tally(rows_in=1_234_567, rows_out=1_234_567, counts=Counter(cells_changed=12))
    step = StepLine(4, "replace " + '"clay works" with "Clay Works", ' * 4, tally, 1.5, ["a remark " * 20])
    summary.steps = [step]
    summary.warnings = ["look out"]
    show_summary(Console(file=out, width=width, highlight=False), summary)
    return out.getvalue().splitlines()


@pytest.mark.parametrize("width", [80, 100, 141])
def test_the_summary_fits_the_screen(width: int) -> None:
    lines = shown(width)
    assert max(map(len, lines)) <= width
    assert any("1,234,567" in line and "…" in line for line in lines)
    assert ("time" in lines[3]) is (width > 90)
    assert "Warning: look out" in lines and lines[-1].startswith("Delivered clean.csv in")


@pytest.mark.parametrize(("seconds", "text"), [(0.0014, "1.4 ms"), (2.34, "2.3 s"), (150, "2.5 min")])
def test_durations(seconds: float, text: str) -> None:
    assert duration(seconds) == text


def test_places_of_outputs_and_aside_files(tmp_path, monkeypatch) -> None:  # type: ignore[no-untyped-def]
    monkeypatch.chdir(tmp_path)
    one = plan_outputs(["a.csv"], "clean.csv.gz", None)[0]
    assert (str(one.output), str(one.aside)) == ("clean.csv.gz", "clean.aside.csv")
    two = plan_outputs(["x/a.csv", "-"], "clean", "set-aside")
    assert [str(span.output) for span in two] == ["clean/a.csv", "clean/standard-input.csv"]
    assert [str(span.aside) for span in two] == [
        "set-aside/a.aside.csv",
        "set-aside/standard-input.aside.csv",
    ]
    assert str(plan_outputs(["a.csv"], "clean/", None)[0].output) == "clean/a.csv"


def test_completion_looks_into_folders(tmp_path, monkeypatch) -> None:  # type: ignore[no-untyped-def]
    monkeypatch.chdir(tmp_path)
    for name in ("logs/week.mangler", "logs/week.csv", "logs/.hidden.csv"):
        (tmp_path / name).parent.mkdir(exist_ok=True)
        (tmp_path / name).touch()
    assert complete_recipes("logs/") == ["logs/week.mangler"]
    (tmp_path / "logs" / "w\x1b[2J.csv").write_text("")
    assert complete_extracts("logs/w") == ["logs/week.csv"]  # no name that commands the terminal
    assert complete_extracts("gone/") == []
