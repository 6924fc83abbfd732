from __future__ import annotations

import os
from pathlib import Path

from tests.cli.program import mangler, said


def test_pages_are_plain_when_piped(tmp_path: Path) -> None:
    text = mangler("manual", "trim", cwd=tmp_path).stdout.decode()
    assert text.startswith("trim\n\n    trim COLUMNS [left|right]")
    assert "\x1b" not in text and "`" not in text and max(map(len, text.splitlines())) <= 100
    assert "\n    trim notes squeeze lines\n      notes             becomes   notes\n" in text
    assert "reorder columns" in mangler("manual", cwd=tmp_path).stdout.decode()
    assert mangler("manual", "exit", "codes", cwd=tmp_path).stdout.decode().startswith("exit codes\n")


def test_a_word_without_a_page(tmp_path: Path) -> None:
    done = mangler("manual", "trimm", cwd=tmp_path)
    assert done.returncode == 2 and done.stdout == b""
    assert "Nearest: trim" in said(done)


def completions(tmp_path: Path, words: str) -> list[str]:
    """What a shell is offered for the last of these words."""
    env = {
        "_MANGLER_COMPLETE": "complete_bash",
        "COMP_WORDS": words,
        "COMP_CWORD": str(len(words.split(" ")) - 1),
    }
    done = mangler(cwd=tmp_path, env={**env, "HOME": os.environ.get("HOME", "/")})
    return done.stdout.decode().split()


def test_shells_complete_commands_options_and_words_of_the_manual(tmp_path: Path) -> None:
    assert completions(tmp_path, "mangler r") == ["run"]
    assert "--rehearse" in completions(tmp_path, "mangler run --re")
    (tmp_path / "kiln-log.mangler").write_text("mangler 1")
    (tmp_path / "kiln-log.csv").write_text("a")
    (tmp_path / "kilns").mkdir()
    assert completions(tmp_path, "mangler run ki") == ["kiln-log.mangler", "kilns/"]
    assert completions(tmp_path, "mangler run kiln-log.mangler ki") == ["kiln-log.csv", "kilns/"]
    assert "trim" in completions(tmp_path, "mangler manual tr")
    assert "squeeze" in completions(tmp_path, "mangler manual sq")


def test_functions_have_pages_and_are_offered(tmp_path: Path) -> None:
    page = mangler("manual", "up_to", cwd=tmp_path).stdout.decode()
    assert page.startswith("up_to(text, mark [, n])\n") and 'up_to("A", "/")  →  null' in page
    both = mangler("manual", "trim", cwd=tmp_path).stdout.decode()
    assert "\ntrim(text)\n" in both and both.startswith("trim\n")
    listed = mangler("manual", "functions", cwd=tmp_path).stdout.decode()
    assert "nulls and types" in listed and "days_between(from, to)" in listed
    assert "up_to" in completions(tmp_path, "mangler manual up_")
    assert {"trim", "trim(", "trim_left("} <= set(completions(tmp_path, "mangler try tri"))
    done = mangler("manual", "upto", cwd=tmp_path)
    assert done.returncode == 2 and "Nearest: up_to" in said(done)
