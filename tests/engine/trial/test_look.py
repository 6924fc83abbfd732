from __future__ import annotations

from pathlib import Path

import pytest

from mangler.engine.trial import look
from mangler.engine.trial.look import View, look_at
from mangler.language.mistake import Refusal
from mangler.recipes.options import column_list, read_words
from mangler.steps.read import settings


@pytest.fixture
def extract(tmp_path: Path) -> str:
    path = tmp_path / "a.csv"
    path.write_text("kiln,cone\n" + "".join(f"{n},{n * 2}\n" for n in range(1, 101)))
    return str(path)


def see(path: str, **options: object) -> View:
    return look_at(path, settings(None), **options)  # type: ignore[arg-type]


def test_the_first_rows(extract: str) -> None:
    view = see(extract)
    assert view.numbers == list(range(1, 21)) and view.cells[1][:2] == ["2", "4"]
    assert [column.name for column in view.columns] == ["kiln", "cone"]
    assert see(extract, rows=3).numbers == [1, 2, 3]


def test_rows_from_anywhere(extract: str) -> None:
    assert see(extract, start=99).numbers == [99, 100]
    assert see(extract, start=50, rows=2).cells[0] == ["50", "51"]
    view = see(extract, start=-3)
    assert view.numbers == [98, 99, 100] and view.total == 100
    assert see(extract, start=-50, rows=2).numbers == [51, 52]
    assert see(extract, start=-500, rows=2).numbers == [1, 2]
    with pytest.raises(Refusal, match="has 100 rows, so none is row 101"):
        see(extract, start=101)


@pytest.mark.parametrize("size", [16, 64, 500])
def test_block_borders_do_not_matter(extract: str, size: int, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(look, "SMALL_PARTITION", size)
    monkeypatch.setattr(look, "PARTITION_SIZE", size)
    assert see(extract, start=17, rows=40).numbers == list(range(17, 57))
    assert see(extract, start=-40, rows=7).numbers == list(range(61, 68))


def test_no_more_is_read_than_is_shown(tmp_path: Path) -> None:
    path = tmp_path / "a.csv"
    path.write_text("kiln\n" + "007\n" * 100_000 + '"never closed')
    read: list[int] = []
    view = see(str(path), progress=lambda _, bytes_read: read.append(bytes_read))
    assert len(view.numbers) == 20 and view.total is None and max(read) < 200_000


def test_rows_without_a_place_count(tmp_path: Path) -> None:
    path = tmp_path / "a.csv"
    path.write_text("a,b\n1,2\n3\n4,5\n6,7\n")
    view = see(str(path), rows=3)
    assert view.numbers == [1, 3] and [row.row for row in view.unfit] == [2]
    assert see(str(path), start=3, rows=1).unfit == []


def test_options_in_the_language(extract: str) -> None:
    assert read_words('delimiter ";"').text("delimiter") == read_words('read delimiter ";"').text("delimiter")
    view = see(extract, columns=column_list("* except kiln"), rows=1)
    assert view.cells == [["2"]]
    for wrong in ("kiln cone", "kilm", "kiln,,"):
        with pytest.raises(Refusal):
            see(extract, columns=column_list(wrong))
    with pytest.raises(Refusal):
        read_words('delimiter ""')
