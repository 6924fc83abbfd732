"""What goes wrong with files elsewhere: connections that break, places that are not there, secrets."""

from __future__ import annotations

from pathlib import Path

import pytest
from tests.cli.program import mangler, said
from tests.cli.remote_places import LOG, RECIPE, ROWS, Elsewhere, by_sftp, in_objects
from tests.storage_servers import BUCKET, HOST, Breaking, Objects, Sftp, Web

PASSWORD = "Wort-Marke-5822"
STRICT = 'mangler 1\ntrim *\nconvert peak to integer without "°C" failures aside\ntolerate 100%\n'


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
        for more in (words, ("run", "r.mangler", "log.csv", "--to", f"{address}x"))[
            : 1 + ("sftp" in address)
        ]:
            done = mangler(*more, cwd=here, env={**sftp.environment, "TMPDIR": str(folder)})
            everything += done.stdout + done.stderr
            codes += [done.returncode] * (more is words)
        assert secret.encode() not in everything
        for path in here.rglob("*"):
            assert not path.is_file() or secret.encode() not in path.read_bytes(), path
        assert not any(folder.iterdir())
    assert codes == [0, 3, 3, 0, 3, 0, 3]
    looked = mangler("look", ways[1][0], cwd=here)
    noted = mangler("history", "r.mangler", "--history", "h.db", "--json", cwd=here)
    assert PASSWORD.encode() not in looked.stdout + looked.stderr + noted.stdout
