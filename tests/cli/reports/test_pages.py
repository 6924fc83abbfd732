"""Reports in a real browser, of a file that is full of what may break a page."""

from __future__ import annotations

import os
import re
from pathlib import Path
from typing import Any

import pytest
from tests.cli.program import mangler, said
from tests.cli.reports.browser import browser, is_there, printed, require_good, show

needs_browser = pytest.mark.skipif(not is_there(), reason="no Chromium here")
MARKUP = "<img src=x onerror=alert(1)><script>alert(2)</script></td></table>"
HOSTILE = (
    MARKUP,
    "{{ 7 * 7 }}{% raw %}",
    "&lt;b&gt; \" ' `",
    "\u202eright to left\u202c שלום עליכם مرحبا",
    "Z\u0351\u0348\u0316a\u0350l\u0308\u0357go",
    "$\\frac{1}{2}$",
    "x" * 100_000,
    "\x01\x1b[31m",
    "https://example.org/x",
)
RECIPE = f"""mangler 1 'Kilns {MARKUP} {{{{ 7 * 7 }}}}'
read nulls "-"
trim *
replace "{MARKUP}" with "plain" in notes
fill studio with "{MARKUP}"
set aside rows where kiln = "3" because "{MARKUP}"
drop rows where kiln = "4"
split glazes at ";" into rows
make long = "{{notes}} / {{studio}}"
"""


COMMANDS = {
    "run": ("run", "r.mangler", "before.csv", "kilns.csv", "--to", "clean/"),
    "one": ("run", "r.mangler", "kilns.csv", "--to", "one.csv", "--against", "before.csv"),
    "profile": ("profile", "kilns.csv"),
    "check": ("check", "r.mangler", "kilns.csv", "before.csv", "gone.csv"),
    "compare": ("compare", "before.csv", "kilns.csv", "--on", "kiln"),
    "history": ("history", "r.mangler"),
    "show": ("history", "show", "1"),
}


@pytest.fixture
def work(tmp_path: Path) -> Path:
    lines = [f"kiln,notes,studio,glazes,{'n' * 60}<b>,$x$"]
    for row, cell in enumerate(HOSTILE):
        quoted = '"' + cell.replace('"', '""') + '"'
        lines.append(f"{row},{quoted},{'-' if row % 2 else quoted},a;b;{row},{quoted},{row * 7}")
    (tmp_path / "kilns.csv").write_text("\n".join(lines) + "\n", "utf-8")
    other = [line.replace("a;b", " A;b") for line in lines[:-2]]
    (tmp_path / "before.csv").write_text("\n".join([*other, "99,x,y,z,0,1"]) + "\n", "utf-8")
    (tmp_path / "r.mangler").write_text(RECIPE, "utf-8")
    return tmp_path


def made(work: Path, name: str, ending: str) -> Path:
    page = work / f"{name}.{ending}"
    done = mangler(*COMMANDS[name], "--report", page.name, cwd=work)
    assert page.exists(), said(done)
    return page


@needs_browser
def test_pages_are_good_whatever_is_in_the_cells(work: Path) -> None:
    """One test, as each makes its files and a browser of its own."""
    with browser() as driver:
        for name in COMMANDS:
            require_good(driver, made(work, name, "html"))
            text = driver.execute_script("return document.body.textContent")
            assert driver.execute_script("return document.querySelectorAll('img, iframe, b').length") == 0
            assert "\u202e" not in text and "\x1b" not in text
            if name in ("run", "one", "show"):
                assert "<img src=x" in text  # it is there, as text
        assert "{{ 7 * 7 }}" in (work / "one.html").read_text("utf-8")
        require_whole_on_paper(driver, work / "profile.html")


def require_whole_on_paper(driver: Any, page: Path) -> None:
    """What is folded on the screen is on paper; and it is dark on light, also for who has a dark screen."""
    show(driver, page, dark=True)
    driver.execute_cdp_cmd("Emulation.setEmulatedMedia", {"media": "print"})
    heights = (
        "return [...document.querySelectorAll('details table')].map(t => t.getBoundingClientRect().height)"
    )
    shown = driver.execute_script(heights)
    assert shown and all(height > 10 for height in shown)
    ground = driver.execute_script("return getComputedStyle(document.documentElement).backgroundColor")
    assert ground == "rgb(255, 255, 255)"
    assert printed(driver).startswith(b"%PDF")


def test_markdown_has_the_facts_and_no_markup_of_cells(work: Path) -> None:
    for name in ("one", "profile", "compare", "history"):
        text = made(work, name, "md").read_text("utf-8")
        assert text.startswith("# ") and "\n**" in text
        outside = "".join(part for number, part in enumerate(text.split("```")) if number % 2 == 0)
        assert not re.search(r"(?<!\\)<(img|script)", outside)
        for line in outside.split("\n"):
            if line.startswith("| "):  # a bar in a cell ends no cell
                assert line.endswith(" |")
        assert len(text) < 300_000 and "\x1b" not in text and "\u202e" not in text


def test_a_report_is_the_same_bytes_again(work: Path) -> None:
    """Whatever order a process keeps sets in. The times of a run are its own: its report is made from the history."""
    made(work, "one", "html")
    for words in (("history", "show", "1"), ("profile", "kilns.csv")):
        pages = []
        for seed in ("1", "2"):
            mangler(*words, "--report", "again.html", cwd=work, env={"PYTHONHASHSEED": seed})
            pages.append((work / "again.html").read_bytes())
        assert pages[0] == pages[1] and b"<svg" in pages[0]


def test_nothing_of_a_report_is_loaded_for_a_run_without_one(tmp_path: Path) -> None:
    (tmp_path / "r.mangler").write_text("mangler 1\ntrim *\n")
    (tmp_path / "a.csv").write_text("a\n x\n")
    done = mangler(
        "run",
        "r.mangler",
        "a.csv",
        "--to",
        "o.csv",
        cwd=tmp_path,
        env={"PYTHONVERBOSE": "", "PYTHONPROFILEIMPORTTIME": "1"},
    )
    loaded = done.stderr.decode()
    assert done.returncode == 0 and "pyarrow" in loaded
    assert "matplotlib" not in loaded and "jinja2" not in loaded and "mangler.cli.reports" not in loaded


def test_a_wide_file_with_many_rows_set_aside_gives_a_report_that_can_be_opened(tmp_path: Path) -> None:
    names = [f"column_{index}" for index in range(400)]
    rows = [",".join(f"{row * 31 + index}" for index in range(400)) for row in range(20)]
    (tmp_path / "wide.csv").write_text("\n".join([",".join(names), *rows]) + "\n")
    steps = "\n".join(f'set aside rows where column_{n} = "{n}" because "no {n}"' for n in range(60))
    (tmp_path / "r.mangler").write_text(f"mangler 1\n{steps}\ntrim *\n")
    for words in (
        ("run", "r.mangler", "wide.csv", "--to", "o.csv"),
        ("profile", "wide.csv"),
        ("compare", "wide.csv", "o.csv"),
    ):
        done = mangler(*words, "--report", "report.html", cwd=tmp_path)
        assert "Traceback" not in said(done)
        assert 5_000 < os.path.getsize(tmp_path / "report.html") < 3_000_000  # noqa: PTH202
