from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.formats.compression import CountedStream
from mangler.formats.encoding import Encoding, Transcoded, find_encoding
from mangler.language.mistake import ExitCode, Refusal

TABLE = "potter;note\nZoë Ó Briain;1222 °C – “good”\n"


@pytest.mark.parametrize(
    ("codec", "said"),
    [
        ("utf-8", "UTF-8"),
        ("utf-8-sig", "UTF-8 with byte order mark"),
        ("cp1252", "Windows-1252"),
        ("utf-16", "UTF-16 with byte order mark"),
        ("utf-16-le", "UTF-16 (little-endian)"),
        ("utf-16-be", "UTF-16 (big-endian)"),
    ],
)
def test_encodings_are_detected_and_reported(tmp_path: Path, codec: str, said: str) -> None:
    extract = tmp_path / "e.csv"
    extract.write_bytes(TABLE.encode(codec))
    result = LinkedRecipe.parse("mangler 1").run(extract)
    assert result.table.to_pylist() == [{"potter": "Zoë Ó Briain", "note": "1222 °C – “good”"}]
    assert result.summary.detected["encoding"] == said


@pytest.mark.parametrize(
    "codec", ["latin-1", "cp1250", "mac-roman", "cp437", "shift-jis", "utf-16-be", "utf-32"]
)
def test_any_encoding_that_python_knows_can_be_named(tmp_path: Path, codec: str) -> None:
    extract = tmp_path / "e.csv"
    text = "a;b\n窯;x\n" if codec == "shift-jis" else "a;b\né;x\n"
    extract.write_bytes(text.encode(codec))
    result = LinkedRecipe.parse(f'mangler 1\nread encoding "{codec}"').run(extract)
    assert result.table.column("a").to_pylist() == [text[4]]
    assert "encoding" not in result.summary.detected


def test_marks_next_to_each_other_are_western_too() -> None:
    sample = "1060\u00a0°C;Zoë\n998\u00a0°C;É\n".encode("cp1252")
    assert find_encoding(sample, True).codec == "cp1252"


def test_a_cut_character_at_the_end_of_a_sample_is_no_other_encoding() -> None:
    assert find_encoding("a;é".encode()[:-1], complete=False).is_utf8
    assert not find_encoding("a;é".encode()[:-1], complete=True).is_utf8


def test_text_of_other_alphabets_is_left_to_statistics() -> None:
    sample = ("мастерская;обжиг;глазурь;печь номер семь\n" * 40).encode("cp1251")
    assert sample.decode(find_encoding(sample, True).codec).startswith("мастерская")


def test_bytes_that_the_encoding_does_not_know_name_their_row(tmp_path: Path) -> None:
    extract = tmp_path / "e.csv"
    extract.write_bytes(b"a;b\n1;2\n3;\x81\n5;6\n")
    with pytest.raises(
        Refusal, match=r"line 3: row 2 holds the bytes 0x81, which are not Windows-1252"
    ) as refused:
        LinkedRecipe.parse('mangler 1\nread encoding "windows-1252"').run(extract)
    assert refused.value.code is ExitCode.FILE_TROUBLE
    assert '"windows-1250"' not in refused.value.mistakes[0].advice
    assert '"cp437" (ü)' in refused.value.mistakes[0].advice


@given(st.text(st.characters(exclude_categories=["Cs"])), st.integers(1, 7))
def test_transcoding_does_not_depend_on_where_the_bytes_are_cut(text: str, size: int) -> None:
    class Bytes:
        def __init__(self) -> None:
            self.rest = text.encode("utf-16-le")

        def read(self, _: int, /) -> bytes:
            piece, self.rest = self.rest[:size], self.rest[size:]
            return piece

        def close(self) -> None:
            pass

    stream = Transcoded(CountedStream(Bytes()), Encoding("utf-16-le"))
    out = b""
    while piece := stream.read(size):
        out += piece
    assert out.decode() == text and not stream.trouble


@pytest.mark.parametrize(
    ("encoding", "content"),
    [
        ("windows-1252", "a;b\n1222 °C;é\n".encode("cp1252")),
        ("utf-16", "a;b\n1222 °C;é\n".encode("utf-16")),
        ("utf-8-sig", "a;b\n1222 °C;é\n".encode("utf-8-sig")),
        ("utf-8", "a;b\n1222 °C;é\n".encode()),
    ],
)
def test_writing_in_another_encoding(tmp_path: Path, encoding: str, content: bytes) -> None:
    extract, out = tmp_path / "e.csv", tmp_path / "o.csv"
    extract.write_text("a;b\n1222 °C;é\n", "utf-8")
    LinkedRecipe.parse(f'mangler 1\nwrite encoding "{encoding}"').run(extract, out)
    assert out.read_bytes() == content


def test_a_character_that_the_output_lacks_is_a_failure_with_its_row(tmp_path: Path) -> None:
    extract, out = tmp_path / "e.csv", tmp_path / "o.csv"
    extract.write_text("a;b\n1;é\n2;ő\n", "utf-8")
    with pytest.raises(
        Refusal, match=r'line 3: row 2, column "b" holds ő \(U\+0151\), which cp1252 lacks'
    ) as refused:
        LinkedRecipe.parse('mangler 1\nwrite encoding "windows-1252"').run(extract, out)
    assert refused.value.code is ExitCode.ANSWER_IS_NO and not out.exists()
    assert refused.value.mistakes[0].span is not None
    extract.write_text("ő;b\n", "utf-8")
    with pytest.raises(Refusal, match="the header holds ő"):
        LinkedRecipe.parse('mangler 1\nwrite encoding "latin-1"').run(extract, out)


@pytest.mark.parametrize("statement", ["read", "write"])
def test_an_encoding_that_nobody_knows(statement: str) -> None:
    with pytest.raises(Refusal, match='"windows-1552" is not an encoding') as refused:
        LinkedRecipe.parse(f'mangler 1\n{statement} encoding "windows-1552"')
    assert "Nearest: windows-1252" in refused.value.mistakes[0].advice
    with pytest.raises(Refusal, match="not an encoding"):
        LinkedRecipe.parse(f'mangler 1\n{statement} encoding "base64"')
