from __future__ import annotations

import io
from collections import Counter

import pytest
from rich.console import Console

from mangler.cli.completion import complete_extracts, complete_recipes
from mangler.cli.views.summary_view import balance_text, duration, show_balance, show_summary
from mangler.engine.run.summary import Balance, StepLine, Summary
from mangler.jobs.output_paths import plan_outputs
from mangler.table.tally import Tally


def shown(width: int) -> list[str]:
    out = io.StringIO()
    summary = Summary("r.mangler", "Kiln log", "week.csv", output="clean.csv", detected={"delimiter": "tab"})
    counts = Counter(cells_changed=12, nulls_made=1_000_000, nulls_filled=7)
    tally = Tally(rows_in=1_234_567, rows_out=1_234_560, counts=counts)
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
    assert any("1,234,567 → 1,234,560" in line for line in lines)
    assert "Warning: look out" in lines and lines[-1].startswith("Delivered clean.csv in")


def test_only_what_happened_is_shown() -> None:
    out = io.StringIO()
    summary = Summary("r.mangler", "Kiln log", "week.csv", output="clean.csv", detected={"delimiter": "tab"})
    nothing = Tally(rows_in=60, rows_out=60)
    changed = Tally(rows_in=60, rows_out=60, counts=Counter(cells_changed=12))
    summary.steps = [
        StepLine(2, "read", nothing, 0.25),
        StepLine(3, "trim notes", changed),
        StepLine(4, "drop columns notes", nothing, 0.000001),
    ]
    summary.writing = StepLine(5, "write line ends lf", seconds=0.5)
    summary.balance = Balance(read=60, delivered=60)
    show_summary(Console(file=out, width=100, highlight=False), summary)
    assert [line.split() for line in out.getvalue().splitlines()[3:8]] == [
        ["line", "step", "rows", "changed", "time"],  # no nulls were made or filled
        ["2", "read", "60", "0.2", "s"],
        ["3", "trim", "notes", "12"],
        ["4", "drop", "columns", "notes"],
        ["5", "write", "line", "ends", "lf", "0.5", "s"],
    ]


@pytest.mark.parametrize(
    ("balance", "sides"),
    [
        (Balance(read=3, delivered=3), ("rows: 3 read", "= 3 delivered")),
        (Balance(3, 4, 5, 2), ("rows: 3 read + 4 added", "= 5 delivered + 2 dropped")),
        (
            Balance(3, 0, 1, 0, 1, 1, 1),
            ("rows: 3 read", "= 1 delivered + 1 merged + 1 withdrawn (1 extract row set aside)"),
        ),
    ],
)
def test_the_balance_is_without_what_is_zero(balance: Balance, sides: tuple[str, str]) -> None:
    assert balance_text(balance) == sides


def test_a_balance_that_is_too_wide_is_wrapped_where_it_balances() -> None:
    out = io.StringIO()
    summary = Summary("r.mangler", "Kiln log", "week.csv", output="clean.csv", detected={"delimiter": "tab"})
    summary.balance = Balance(1_000_000, 2_000_000, 1_500_000, 500_000, 900_000, 100_000, 100_000)
    show_balance(Console(file=out, width=60, highlight=False), summary)
    lines = out.getvalue().splitlines()
    assert lines[1] == "rows: 1,000,000 read + 2,000,000 added" and lines[2].startswith(
        "    = 1,500,000 delivered"
    )


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


def test_where_nothing_was_detected_there_is_no_line_for_it() -> None:
    out = io.StringIO()
    summary = Summary("r.mangler", "Kiln log", "2 extracts together", output="all.csv")
    summary.steps = [StepLine(0, "rows of 2 extracts", Tally(rows_in=6, rows_out=6))]
    show_summary(Console(file=out, width=100, highlight=False), summary)
    assert out.getvalue().splitlines()[:2] == ["Kiln log on 2 extracts together", ""]
