from __future__ import annotations

from pathlib import Path

import pytest

from mangler.engine.plan.references import with_reference
from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.language.mistake import ExitCode, Refusal
from mangler.language.statement import Statement
from mangler.steps.map import pairs_of


def statement(folder: Path, clauses: str, content: bytes) -> Statement:
    (folder / "lib").mkdir(exist_ok=True)
    (folder / "lib" / "words.csv").write_bytes(content)
    (folder / "r.mangler").write_text(f"mangler 1\nmap a from 'lib/words.csv'{clauses}\n")
    return LinkedRecipe.load(folder / "r.mangler").parsed.statements[1]


def test_pairs_in_the_order_of_the_file_nulls_skipped(tmp_path: Path) -> None:
    read = with_reference(statement(tmp_path, "", b'key;value;more\nb;1;x\n;2;\n"";3;\na;;\n'))
    assert list(pairs_of(read)) == [("b", "1"), ("", "3"), ("a", None)]


def test_the_file_is_read_whatever_its_encoding_and_delimiter(tmp_path: Path) -> None:
    read = with_reference(statement(tmp_path, "", "ofen\tname\n1\tGröße\n".encode("utf-16")))
    assert list(pairs_of(read)) == [("1", "Größe")]


def test_keys_are_the_same_that_are_compared_the_same(tmp_path: Path) -> None:
    content = b"key,value\nx,1\nX ,2\n"
    assert len(pairs_of(with_reference(statement(tmp_path, "", content)))) == 2
    with pytest.raises(Refusal, match='has "X " twice, in lines 2 and 3') as refused:
        pairs_of(with_reference(statement(tmp_path, " anycase", content)))
    assert refused.value.code is ExitCode.WRONG_FOR_ANY_EXTRACT


def test_both_lines_are_reported_past_line_breaks_in_cells(tmp_path: Path) -> None:
    with pytest.raises(Refusal, match="in lines 4 and 5"):
        pairs_of(with_reference(statement(tmp_path, "", b'key,value\n"a\nb",1\nc,2\nc,3\n')))


def test_a_file_that_is_not_there_is_file_trouble_at_its_place(tmp_path: Path) -> None:
    read = statement(tmp_path, "", b"key,value\n")
    (tmp_path / "lib" / "words.csv").unlink()
    with pytest.raises(Refusal) as refused:
        with_reference(read)
    (mistake,) = refused.value.mistakes
    assert refused.value.code is ExitCode.FILE_TROUBLE
    assert mistake.span is not None and mistake.span.text == "'lib/words.csv'"
