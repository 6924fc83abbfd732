"""Archives: the one file that is meant, damage, and addresses of parts."""

from __future__ import annotations

import io
import tarfile
import zipfile
from pathlib import Path

import pytest
from tests.cli.program import mangler, said

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.formats.location import split_address
from mangler.formats.registry import ending_of, parts_of
from mangler.jobs.extracts import extracts_of, file_name_of
from mangler.language.mistake import ExitCode, Refusal

PLAIN = LinkedRecipe.parse("mangler 1")
WEEK_18, WEEK_19 = b"kiln;made\n007;4\n", b"kiln;made\n012;3\n"


def zipped(path: Path, **files: bytes) -> Path:
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in files.items():
            archive.writestr(name.replace("__", "/").replace("_csv", ".csv"), content)
    return path


def tarred(path: Path, mode: str, **files: bytes) -> Path:
    with tarfile.open(path, mode) as archive:  # type: ignore[call-overload]
        for name, content in files.items():
            info = tarfile.TarInfo(name.replace("_csv", ".csv"))
            info.size = len(content)
            archive.addfile(info, io.BytesIO(content))
    return path


def test_one_file_in_a_zip_or_tar(tmp_path: Path) -> None:
    paths = [
        zipped(tmp_path / "a.zip", week_csv=WEEK_18, __MACOSX__week_csv=b"x", _hidden_csv=b""),
        tarred(tmp_path / "a.tar", "w", week_csv=WEEK_18),
        tarred(tmp_path / "a.tar.gz", "w:gz", week_csv=WEEK_18),
        tarred(tmp_path / "a.tar.xz", "w:xz", week_csv=WEEK_18),
    ]
    with zipfile.ZipFile(paths[0], "a") as archive:
        archive.writestr(".hidden", b"x")
    (tmp_path / "b.zip").write_bytes(zipped(tmp_path / "c.zip", week_csv=WEEK_18).read_bytes())
    for path in (tmp_path / "b.zip", *paths[1:]):
        result = PLAIN.run(path)
        assert result.table.to_pylist() == [{"kiln": "007", "made": "4"}]
        assert result.summary.extract.endswith("#week.csv")


def test_several_files_are_named_or_refused(tmp_path: Path) -> None:
    path = zipped(tmp_path / "logs.zip", old__week_18_csv=WEEK_18, week_19_csv=WEEK_19)
    with pytest.raises(
        Refusal, match=r"holds 2 files, and one is to be read: old/week_18\.csv, week_19\.csv"
    ):
        PLAIN.run(path)
    assert PLAIN.run(f"{path}#week_19.csv").table.column("kiln").to_pylist() == ["012"]
    assert PLAIN.run(f"{path}#old/*").table.column("kiln").to_pylist() == ["007"]
    with pytest.raises(Refusal, match=r"holds no file week_91\.csv") as missing:
        PLAIN.run(f"{path}#week_91.csv")
    assert missing.value.mistakes[0].advice == f"Nearest: {path}#week_19.csv"
    assert parts_of(str(path)) == ["old/week_18.csv", "week_19.csv"]
    assert extracts_of([f"{tmp_path}/*.zip#week*"]) == [f"{path}#week_19.csv"]
    assert extracts_of([f"{path}#*"]) == [f"{path}#old/week_18.csv", f"{path}#week_19.csv"]
    with pytest.raises(Refusal, match=r"nothing in .* fits x"):
        extracts_of([f"{path}#x*"])


def test_a_file_of_the_whole_name_wins(tmp_path: Path) -> None:
    (tmp_path / "a#b.csv").write_bytes(WEEK_18)
    (tmp_path / "a").write_bytes(WEEK_19)
    assert split_address(str(tmp_path / "a#b.csv")) == (str(tmp_path / "a#b.csv"), "")
    assert PLAIN.run(tmp_path / "a#b.csv").table.column("kiln").to_pylist() == ["007"]
    assert split_address(str(tmp_path / "a#c")) == (str(tmp_path / "a"), "c")
    with pytest.raises(Refusal, match="holds one table, in the format delimited text"):
        PLAIN.run(f"{tmp_path / 'a'}#c")


@pytest.mark.parametrize(
    ("address", "name"),
    [
        ("in/book.xlsx", "book.xlsx"),
        ("in/book.xls", "book.xlsx"),
        ("in/book.xlsx#Log", "book-Log.xlsx"),
        ("in/book.ods#May / June", "book-May - June.xlsx"),
        ("in/logs.zip#d/week.csv", "logs-d-week.csv"),
        ("in/logs.csv.gz", "logs.csv.gz"),
        ("-", "standard-input.csv"),
    ],
)
def test_outputs_are_named_after_the_file_and_its_part(
    address: str, name: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(tmp_path)
    (tmp_path / "in").mkdir()
    for file in ("book.xlsx", "book.xls", "book.ods", "logs.zip"):
        (tmp_path / "in" / file).touch()
    assert file_name_of(address) == name


def test_the_ending_of_rows_set_aside(tmp_path: Path) -> None:
    (tmp_path / "a.txt").write_text('{"a":1}\n')
    (tmp_path / "b.txt").write_text('[{"a":1}]')
    (tmp_path / "c.txt").write_bytes(WEEK_18)
    endings = [ending_of(str(tmp_path / name)) for name in ("a.txt", "b.txt", "c.txt", "gone")]
    assert endings == [".jsonl", ".json", ".csv", ".csv"]


def test_damaged_locked_and_nested_archives(tmp_path: Path) -> None:
    path = zipped(tmp_path / "a.zip", week_csv=WEEK_18 * 2000)
    content = bytearray(path.read_bytes())
    cut, flipped = tmp_path / "cut.zip", tmp_path / "flipped.zip"
    cut.write_bytes(bytes(content[: len(content) // 2]))
    content[60] ^= 0xFF
    flipped.write_bytes(bytes(content))
    locked = bytearray(path.read_bytes())
    at = locked.index(b"PK\x01\x02")
    locked[6] |= 1
    locked[at + 8] |= 1
    (tmp_path / "locked.zip").write_bytes(bytes(locked))
    inner = zipped(tmp_path / "inner.zip", a_csv=WEEK_18).read_bytes()
    zipped(tmp_path / "outer.zip", inner=inner)
    zipped(tmp_path / "empty.zip")
    words = {
        "cut": "file-damaged",
        "flipped": "file-damaged",
        "locked": "file-encrypted",
        "outer": "archive-in-archive",
        "empty": "archive-empty",
    }
    for name, word in words.items():
        with pytest.raises(Refusal) as refused:
            PLAIN.run(tmp_path / f"{name}.zip", tmp_path / "o.csv")
        assert refused.value.mistakes[0].word == word, name
        assert refused.value.code is ExitCode.FILE_TROUBLE and not (tmp_path / "o.csv").exists()


def test_parts_are_extracts_of_their_own(tmp_path: Path) -> None:
    zipped(tmp_path / "logs.zip", week_18_csv=WEEK_18, week_19_csv=WEEK_19)
    (tmp_path / "r.mangler").write_text("mangler 1\nconvert made to integer\n")
    done = mangler("run", "r.mangler", "logs.zip#*", "--to", "clean/", "--only-new", cwd=tmp_path)
    assert done.returncode == 0, said(done)
    assert {path.name for path in (tmp_path / "clean").iterdir()} == {"logs-week_18.csv", "logs-week_19.csv"}
    again = mangler("run", "r.mangler", "logs.zip#*", "--to", "clean/", "--only-new", cwd=tmp_path)
    assert "2 skipped" in said(again)
    over = mangler("run", "r.mangler", "logs.zip#week_18.csv", "--to", "logs.zip", cwd=tmp_path)
    assert over.returncode == 2 and "is the extract itself" in said(over)


def test_a_zip_of_one_file_is_written(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_bytes(WEEK_18)
    recipes = {"o.csv.zip": "mangler 1", "o.zip": "mangler 1", "packed": "mangler 1\nwrite compression zip"}
    for name, recipe in recipes.items():
        for _ in range(2):
            before = (tmp_path / name).read_bytes() if (tmp_path / name).exists() else None
            LinkedRecipe.parse(recipe).run(tmp_path / "a.csv", tmp_path / name)
            assert before in (None, (tmp_path / name).read_bytes())
        with zipfile.ZipFile(tmp_path / name) as archive:
            [member] = archive.namelist()
            assert member == {"o.csv.zip": "o.csv", "o.zip": "o.csv", "packed": "packed.csv"}[name]
            assert archive.read(member) == WEEK_18 and archive.getinfo(member).date_time[0] == 1980
        assert PLAIN.run(tmp_path / name).table.num_rows == 1
