"""Files elsewhere as extracts, outputs and files to look into, by the installed program."""

from __future__ import annotations

import gzip
import json
import os
import zipfile
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import pyarrow as pa
import pyarrow.parquet as pq
import pytest
import xlsxwriter
from tests.cli.program import mangler, said
from tests.storage_servers import BUCKET, HOST, Breaking, Objects, Sftp, Web

PASSWORD = "Wort-Marke-5822"
ROWS = "".join(f" k{n % 7} ;Ann Møller;{900 + n % 50} °C\n" for n in range(500))
LOG = "kiln;potter;peak\n" + ROWS
RECIPE = 'mangler 1\ntrim *\nconvert peak to integer without "°C"\n'
STRICT = 'mangler 1\ntrim *\nconvert peak to integer without "°C" failures aside\ntolerate 100%\n'


@dataclass(frozen=True)
class Elsewhere:
    """A place with files, whatever reaches it."""

    address: Callable[[str], str]
    put: Callable[[str, bytes], None]
    get: Callable[[str], bytes]
    names: Callable[[str], list[str]]
    env: dict[str, str]


def by_sftp(sftp: Sftp, own: str) -> Elsewhere:
    folder = sftp.folder / own
    folder.mkdir()

    def put(name: str, content: bytes) -> None:
        (folder / name).parent.mkdir(exist_ok=True, parents=True)
        (folder / name).write_bytes(content)

    return Elsewhere(
        lambda name: sftp.address(f"{own}/{name}"),
        put,
        lambda name: (folder / name).read_bytes(),
        lambda name: sorted(path.name for path in (folder / name).iterdir()),
        sftp.environment,
    )


def in_objects(objects: Objects, own: str) -> Elsewhere:
    return Elsewhere(
        lambda name: f"s3://{BUCKET}/{own}/{name}",
        lambda name, content: objects.put(f"{own}/{name}", content),
        lambda name: objects.get(f"{own}/{name}"),
        lambda name: [key.rpartition("/")[2] for key in objects.keys if key.startswith(f"{own}/{name}")],
        objects.environment,
    )


def names_in(folder: Path) -> list[str]:
    return sorted(path.name for path in folder.iterdir())


@pytest.fixture(params=["sftp", "objects"])
def there(request: pytest.FixtureRequest, tmp_path: Path) -> Elsewhere:
    """A place that files can be put in."""
    server = request.getfixturevalue(request.param)
    return by_sftp(server, tmp_path.name) if request.param == "sftp" else in_objects(server, tmp_path.name)


@pytest.fixture
def here(tmp_path: Path) -> Path:
    (tmp_path / "r.mangler").write_text(RECIPE, "utf-8")
    (tmp_path / "log.csv").write_text(LOG, "utf-8")
    done = mangler("run", "r.mangler", "log.csv", "--to", "expected.csv", cwd=tmp_path)
    assert done.returncode == 0, said(done)
    return tmp_path


def files_of_every_format(here: Path) -> dict[str, bytes]:
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


def test_every_format_is_read_as_here(here: Path, there: Elsewhere) -> None:
    for name, content in files_of_every_format(here).items():
        there.put(name, content)
        one = mangler("run", "r.mangler", name, "--to", "one.csv", cwd=here)
        two = mangler("run", "r.mangler", there.address(name), "--to", "two.csv", cwd=here, env=there.env)
        assert (one.returncode, two.returncode) == (0, 0), said(one) + said(two)
        assert (here / "one.csv").read_bytes() == (here / "two.csv").read_bytes()


def test_every_format_is_written_as_here(here: Path, there: Elsewhere) -> None:
    there.put("x", b"")  # the folder is there
    for name in ("o.csv", "o.csv.gz", "o.parquet", "o.jsonl"):
        assert mangler("run", "r.mangler", "log.csv", "--to", name, cwd=here).returncode == 0
        done = mangler("run", "r.mangler", "log.csv", "--to", there.address(name), cwd=here, env=there.env)
        assert done.returncode == 0 and f"Delivered {there.address(name)} " in said(done)
        assert there.get(name) == (here / name).read_bytes()
    assert there.names("") == ["o.csv", "o.csv.gz", "o.jsonl", "o.parquet", "x"]


def test_the_web_is_read_with_ranges_and_without(here: Path, web: Web) -> None:
    for name, content in files_of_every_format(here).items():
        (web.folder / name).write_bytes(content)
        assert mangler("run", "r.mangler", name, "--to", "one.csv", cwd=here).returncode == 0
        for way in ("", "whole/"):
            done = mangler("run", "r.mangler", web.address(way + name), "--to", "two.csv", cwd=here)
            assert done.returncode == 0, said(done)
            assert (here / "one.csv").read_bytes() == (here / "two.csv").read_bytes()


def test_all_commands_that_look(here: Path, there: Elsewhere) -> None:
    there.put("log.csv", LOG.encode())
    at = there.address("log.csv")

    def told(*words: str) -> str:
        done = mangler(*words, cwd=here, env=there.env)
        assert done.returncode == 0, said(done)
        return done.stdout.decode()

    assert "Ann Møller" in told("look", at)
    assert "500 rows, 3 columns" in told("profile", at)
    assert told("draft", at).startswith('mangler 1 "log"\n')
    assert "k1" in told("try", at, "trim kiln")
    assert at in told("check", "r.mangler", at)


def test_folders_and_patterns(here: Path, there: Elsewhere) -> None:
    for name in ("w/b.csv", "w/a.csv", "w/.hidden.csv", "w/a.aside.csv", "w/r.mangler", "w/deep/c.csv"):
        there.put(name, LOG.encode())
    there.put("clean/x", b"")
    done = mangler(
        "run", "r.mangler", there.address("w/"), "--to", there.address("clean/"), cwd=here, env=there.env
    )
    assert done.returncode == 0, said(done)
    assert there.names("clean") == ["a.csv", "b.csv", "x"]
    assert there.get("clean/a.csv") == (here / "expected.csv").read_bytes()
    (here / "own").mkdir()
    words = ("run", "r.mangler", there.address("w/?.csv"), "--to", "own/", "--workers", "2")
    done = mangler(*words, cwd=here, env=there.env)
    assert done.returncode == 0 and names_in(here / "own") == ["a.csv", "b.csv"], said(done)
    done = mangler("run", "r.mangler", there.address("w/*.psv"), "--to", "own/", cwd=here, env=there.env)
    assert done.returncode == 3 and "no file fits" in said(done)


def test_the_files_that_a_page_lists(here: Path, web: Web) -> None:
    folder = web.folder / here.name
    folder.mkdir()
    for name in ("week 1.csv", "week 2.csv"):
        (folder / name).write_text(LOG, "utf-8")
    (here / "own").mkdir()
    for named in (f"{here.name}/", f"{here.name}/*.csv"):
        done = mangler("run", "r.mangler", web.address(named), "--to", "own/", cwd=here)
        assert done.returncode == 0 and names_in(here / "own") == ["week 1.csv", "week 2.csv"], said(done)


def test_one_table_of_all(here: Path, there: Elsewhere) -> None:
    there.put("a.csv", LOG.encode())
    there.put("b.csv", LOG.encode())
    words = ("run", "r.mangler", there.address("*.csv"), "--together", "--to", there.address("all.jsonl"))
    done = mangler(*words, cwd=here, env=there.env)
    assert done.returncode == 0, said(done)
    assert there.get("all.jsonl").count(b"\n") == 1000
    new = mangler(*words, "--only-new", cwd=here, env=there.env)
    assert new.returncode == 2 and "is there already" in said(new)
    on_cluster = mangler(*words[:-1], "all.jsonl", "--cluster", "local:2", cwd=here, env=there.env)
    assert on_cluster.returncode == 0, said(on_cluster)
    assert (here / "all.jsonl").read_bytes() == there.get("all.jsonl")


def test_only_new(here: Path, sftp: Sftp) -> None:
    there = by_sftp(sftp, here.name)
    content = (LOG + "k1;Bo;1007").encode()
    there.put("a.csv", content)
    path = sftp.folder / here.name / "a.csv"
    words = ("run", "r.mangler", there.address("*.csv"), "--to", "o/", "--only-new", "--json")

    def outcome() -> dict[str, object]:
        done = mangler(*words, cwd=here, env=there.env)
        assert done.returncode == 0, said(done)
        found: dict[str, object] = json.loads(done.stdout)["extracts"][0]
        return found

    (here / "o").mkdir()
    first = outcome()
    assert first["delivered"] and str(first["version"]).endswith(f" {len(content)}"), first
    os.utime(path, (1, 1))
    assert "the same content" in str(outcome()["message"])  # it was read, and is what it was
    os.utime(path, (1, 1))
    path.write_bytes(content[:-1] + b"8")
    assert outcome()["delivered"]
    # The same size and time: the place says that nothing has changed, and so it is not read.
    seen = path.stat()
    path.write_bytes(content[:-1] + b"9")
    os.utime(path, ns=(seen.st_atime_ns, seen.st_mtime_ns))
    assert "the same content" in str(outcome()["message"])


def test_a_lookup_elsewhere(here: Path, there: Elsewhere) -> None:
    there.put("kilns.csv", b"kiln,fuel\nk1,gas\n")
    address = there.address("kilns.csv")
    (here / "l.mangler").write_text(
        f'mangler 1\ntrim *\nlookup "{address}" on kiln bring fuel unmatched null\n', "utf-8"
    )
    done = mangler("run", "l.mangler", "log.csv", "--to", "o.csv", cwd=here, env=there.env)
    assert (
        done.returncode == 0 and b"k1;gas;Ann M\xc3\xb8ller;901 \xc2\xb0C\n" in (here / "o.csv").read_bytes()
    )
    shut = mangler("run", "l.mangler", "log.csv", "--files-under", ".", cwd=here, env=there.env)
    assert shut.returncode == 2 and "not on this machine" in said(shut)
    lost = mangler("run", "l.mangler", "log.csv", "--to", address, cwd=here, env=there.env)
    assert lost.returncode == 2 and "would be lost" in said(lost)
    open_secret = address.replace("://", f"://ann:{PASSWORD}@", 1)
    (here / "l.mangler").write_text(f'mangler 1\nlookup "{open_secret}" on kiln bring fuel\n', "utf-8")
    done = mangler("run", "l.mangler", "log.csv", cwd=here, env=there.env)
    assert done.returncode == 2 and "secret-in-the-clear" in said(done)


# What goes wrong


def through(port: int, way: str, sftp: Sftp, web: Web, here: Path) -> tuple[str, dict[str, str]]:
    """The address of a large file by a proxy at this port, and what the program needs for it."""
    if way == "objects":
        return f"s3://{BUCKET}/{here.name}/large.csv", {"AWS_ENDPOINT_URL": f"http://{HOST}:{port}"}
    if way == "sftp":
        sftp.trust(port)
        return sftp.address(f"{here.name}/large.csv").replace(f":{sftp.port}/", f":{port}/"), {}
    return web.address(f"{way}{here.name}/large.csv").replace(f":{web.port}/", f":{port}/"), {}


@pytest.mark.parametrize("way", ["objects", "sftp", "", "whole/"])
def test_a_connection_that_breaks(way: str, here: Path, sftp: Sftp, web: Web, objects: Objects) -> None:
    large = (LOG + ROWS * 600).encode()  # 8 MB
    (here / "large.csv").write_bytes(large)
    assert mangler("run", "r.mangler", "large.csv", "--to", "one.csv", cwd=here).returncode == 0
    by_sftp(sftp, here.name).put("large.csv", large)
    (web.folder / here.name).mkdir()
    (web.folder / here.name / "large.csv").write_bytes(large)
    objects.put(f"{here.name}/large.csv", large)
    port = {"objects": objects.port, "sftp": sftp.port}.get(way, web.port)
    breaking = Breaking(port, 3_000_000, 2)
    address, env = through(breaking.port, way, sftp, web, here)
    env = {**objects.environment, **sftp.environment, **env}
    done = mangler("run", "r.mangler", address, "--to", "two.csv", cwd=here, env=env)
    breaking.close()
    assert done.returncode == 0 and breaking.dropped == 2, said(done)
    assert (here / "one.csv").read_bytes() == (here / "two.csv").read_bytes()


def test_a_connection_that_breaks_each_time(here: Path, web: Web) -> None:
    (web.folder / here.name).mkdir()
    (web.folder / here.name / "large.csv").write_bytes((LOG + ROWS * 100).encode())
    breaking = Breaking(web.port, 300_000, 1000)
    address = f"http://{HOST}:{breaking.port}/whole/{here.name}/large.csv"
    done = mangler("run", "r.mangler", address, "--to", "two.csv", cwd=here)
    breaking.close()
    assert done.returncode == 3 and "tried 5 times" in said(done) and not (here / "two.csv").exists()


@pytest.mark.parametrize("way", ["objects", "sftp"])
def test_a_connection_that_breaks_while_it_is_written(
    way: str, here: Path, sftp: Sftp, objects: Objects
) -> None:
    (here / "large.csv").write_text(LOG + ROWS * 200, "utf-8")
    there = by_sftp(sftp, here.name) if way == "sftp" else in_objects(objects, here.name)
    there.put("o.csv", b"before")
    breaking = Breaking(sftp.port if way == "sftp" else objects.port, 1_000_000, 1000, requests=True)
    sftp.trust(breaking.port)
    address = there.address("o.csv").replace(f":{sftp.port}/", f":{breaking.port}/")
    env = {**there.env, "AWS_ENDPOINT_URL": f"http://{HOST}:{breaking.port}"}
    done = mangler("run", "r.mangler", "large.csv", "--to", address, cwd=here, env=env)
    breaking.close()
    assert done.returncode == 3 and "What was there before is unchanged" in said(done)
    assert there.get("o.csv") == b"before"


def refused(here: Path, env: dict[str, str], *words: str) -> str:
    done = mangler(*words, cwd=here, env=env)
    assert done.returncode in (2, 3), said(done)
    assert not done.stdout
    return said(done)


def test_what_is_not_there(here: Path, there: Elsewhere) -> None:
    there.put("week-18.csv", LOG.encode())
    lacking = refused(here, there.env, "look", there.address("week-19.csv"))
    assert "week-19.csv does not exist" in lacking and "Nearest in its folder: week-18.csv." in lacking
    assert "is a folder" in refused(here, there.env, "look", there.address("").rstrip("/"))
    assert "does not exist" in refused(
        here, there.env, "run", "r.mangler", there.address("none/"), "--to", "o/"
    )


def test_outputs_that_cannot_be(here: Path, there: Elsewhere, web: Web) -> None:
    there.put("a.csv", LOG.encode())
    at = there.address("a.csv")

    def told(*words: str) -> str:
        return refused(here, there.env, "run", "r.mangler", *words)

    assert "is the extract itself" in told(at, "--to", at)
    assert "--append goes on with a file on this machine" in told("log.csv", "--append", at)
    assert "rows set aside go to a file on this machine" in told("log.csv", "--to", "o.csv", "--aside", at)
    assert "is the name of a file" in told("log.csv", at, "--to", there.address("o.csv"))
    assert "would both be written" in told(
        "log.csv", "./../" + here.name + "/x/log.csv", "--to", there.address("o/")
    )
    assert "the web is read only" in told("log.csv", "--to", web.address("o.csv"))
    assert "other:// is not known" in told("log.csv", "--to", "other://h/o.csv")
    assert "file:// is not known" in told("file:///etc/passwd", "--to", "o.csv")
    assert "Install adlfs" in told("log.csv", "--to", "abfs://h/o.csv")
    (here / "r.mangler").write_text(RECIPE + "write by kiln\n", "utf-8")
    assert "do not appear at once" in told("log.csv", "--to", there.address("o.csv"))
    assert there.names("") == ["a.csv"]


def test_rows_set_aside_need_a_place_here(here: Path, there: Elsewhere) -> None:
    there.put("a.csv", (LOG + "k1;Bo;soon\n").encode())
    (here / "s.mangler").write_text(STRICT, "utf-8")
    words = ("run", "s.mangler", there.address("a.csv"), "--to", there.address("o.csv"))
    done = mangler(*words, cwd=here, env=there.env)
    assert done.returncode == 1 and "there is no file for them" in said(done) and there.names("") == ["a.csv"]
    done = mangler(*words, "--aside", "aside.csv", cwd=here, env=there.env)
    assert done.returncode == 0 and "k1;Bo;soon" in (here / "aside.csv").read_text("utf-8")


def test_places_that_do_not_let_us_in(here: Path, sftp: Sftp, web: Web, objects: Objects) -> None:
    (web.folder / "log.csv").write_text(LOG, "utf-8")
    by_sftp(sftp, here.name).put("log.csv", LOG.encode())
    at = sftp.address(f"{here.name}/log.csv")
    assert "not found in known_hosts" in refused(here, {"HOME": str(here)}, "look", at)
    other = at.replace("sftp://", "sftp://nobody-", 1)
    assert "may not be reached: Authentication failed" in refused(here, sftp.environment, "look", other)
    assert "401" in refused(here, {}, "look", web.address("shut/log.csv"))
    secure = f"https://{HOST}:{web.secure_port}/log.csv"
    assert "its certificate does not fit" in refused(here, {}, "look", secure)
    trusted = {"SSL_CERT_FILE": str(web.certificate)}  # it is for another name
    assert "its certificate does not fit" in refused(here, trusted, "look", secure)
    assert "cannot be reached" in refused(here, {}, "look", f"http://{HOST}:1/log.csv")
    assert "cannot be reached" in refused(here, sftp.environment, "look", f"sftp://{HOST}:1/log.csv")
    nobody = {**objects.environment, "AWS_ENDPOINT_URL": f"http://{HOST}:1"}
    assert "cannot be reached" in refused(here, nobody, "look", f"s3://{BUCKET}/log.csv")
    assert "nor does its bucket" in refused(here, objects.environment, "look", "s3://no-such-bucket/log.csv")


def test_no_secret_is_seen(here: Path, web: Web, sftp: Sftp) -> None:
    """In every way of giving one, whether it is let in or not."""
    (web.folder / "log.csv").write_text(LOG, "utf-8")
    by_sftp(sftp, here.name).put("log.csv", LOG.encode())
    folder = here / "tmp"
    folder.mkdir()
    ways = [
        (web.address("shut/log.csv", "ann:sesame-77@"), "sesame-77"),
        (web.address("shut/log.csv", f"ann:{PASSWORD}@"), PASSWORD),
        (web.address("shut/log.csv", f"{PASSWORD}@"), PASSWORD),
        (web.address(f"log.csv?token={PASSWORD}"), PASSWORD),
        (web.address(f"none.csv?week=1&X-Amz-Signature={PASSWORD}"), PASSWORD),
        (sftp.address(f"{here.name}/log.csv").replace("@", f":{PASSWORD}@"), PASSWORD),
        (sftp.address(f"{here.name}/none.csv").replace("@", f":{PASSWORD}@"), PASSWORD),
    ]
    codes = []
    for number, (address, secret) in enumerate(ways):
        words = ("run", "r.mangler", address, "--to", f"o{number}.csv", "--json", "--history", "h.db")
        everything = b""
        for more in (
            words,
            ("run", "r.mangler", "log.csv", "--to", f"{address}x"),
            ("look", address),
            ("draft", address),
        ):
            done = mangler(*more, cwd=here, env={**sftp.environment, "TMPDIR": str(folder)})
            everything += done.stdout + done.stderr
        codes.append(mangler(*words, cwd=here, env=sftp.environment).returncode)
        everything += mangler("history", "r.mangler", "--history", "h.db", "--json", cwd=here).stdout
        assert secret.encode() not in everything
        for path in here.rglob("*"):
            assert not path.is_file() or secret.encode() not in path.read_bytes(), path
        assert not any(folder.iterdir())
    assert codes == [0, 3, 3, 0, 3, 0, 3]


def test_names_of_web_addresses(here: Path, web: Web) -> None:
    (web.folder / "log.csv").write_text(LOG, "utf-8")
    (here / "o").mkdir()
    weeks = [web.address(f"log.csv?week={week}&token={week}{week}{week}") for week in (1, 2)]
    done = mangler("run", "r.mangler", *weeks, "--to", "o/", cwd=here)
    assert done.returncode == 0 and names_in(here / "o") == ["log-week-1.csv", "log-week-2.csv"], said(done)
