"""Files of every format elsewhere are read and written as here."""

from __future__ import annotations

import gzip
import json
import zipfile
from pathlib import Path

import pyarrow as pa
import pyarrow.parquet as pq
import pytest
import xlsxwriter
from tests.cli.remote_places import LOG, RECIPE, by_sftp, in_objects
from tests.storage_servers import Objects, Sftp, Web

from mangler.library import Recipe


@pytest.fixture
def known(sftp: Sftp, objects: Objects, monkeypatch: pytest.MonkeyPatch) -> None:
    """The environment in which both servers let us in."""
    for name, value in {**sftp.environment, **objects.environment}.items():
        monkeypatch.setenv(name, value)


def cleaned(extract: str | Path, to: str | Path) -> bytes:
    Recipe.parse(RECIPE).run(extract, to)
    return Path(to).read_bytes() if isinstance(to, Path) else b""


def files_of_every_format(here: Path) -> dict[str, bytes]:
    (here / "log.csv").write_text(LOG, "utf-8")
    table = {"kiln": [" k1 ", "k2"], "peak": ["998 °C", "1222"]}
    pq.write_table(pa.table(table), here / "log.parquet")
    with xlsxwriter.Workbook(here / "log.xlsx") as book:
        sheet = book.add_worksheet("Log")
        sheet.write_column(0, 0, ["kiln", *table["kiln"]])
        sheet.write_column(0, 1, ["peak", *table["peak"]])
    with zipfile.ZipFile(here / "log.zip", "w") as archive:
        archive.write(here / "log.csv", "log.csv")
    lines = (json.dumps(dict(zip(table, row, strict=True))) for row in zip(*table.values(), strict=True))
    (here / "log.jsonl").write_text("\n".join(lines) + "\n", "utf-8")
    (here / "log.csv.gz").write_bytes(gzip.compress(LOG.encode()))
    names = ("log.csv", "log.csv.gz", "log.parquet", "log.xlsx", "log.zip", "log.jsonl")
    return {name: (here / name).read_bytes() for name in names}


@pytest.mark.usefixtures("known")
def test_every_format_is_read(sftp: Sftp, objects: Objects, web: Web, tmp_path: Path) -> None:
    places = [by_sftp(sftp, tmp_path.name), in_objects(objects, tmp_path.name)]
    for name, content in files_of_every_format(tmp_path).items():
        expected = cleaned(tmp_path / name, tmp_path / "one.csv")
        for place in places:
            place.put(name, content)
        (web.folder / name).write_bytes(content)
        addresses = [place.address(name) for place in places] + [
            web.address(name),
            web.address(f"whole/{name}"),
        ]
        for address in addresses:
            assert cleaned(address, tmp_path / "two.csv") == expected, address


@pytest.mark.usefixtures("known")
def test_every_format_is_written(sftp: Sftp, objects: Objects, tmp_path: Path) -> None:
    (tmp_path / "log.csv").write_text(LOG, "utf-8")
    places = [by_sftp(sftp, tmp_path.name), in_objects(objects, tmp_path.name)]
    names = ("o.csv", "o.csv.gz", "o.jsonl", "o.parquet")
    for place in places:
        for name in names:
            expected = cleaned(tmp_path / "log.csv", tmp_path / name)
            cleaned(tmp_path / "log.csv", place.address(name))
            assert place.get(name) == expected
        assert place.names("") == list(names)
