"""Files elsewhere as extracts, outputs and files to look into, by the installed program."""

from __future__ import annotations

import json
import os
from pathlib import Path

from tests.cli.program import mangler, said
from tests.cli.remote_places import LOG, Elsewhere, by_sftp
from tests.storage_servers import Sftp, Web

PASSWORD = "Wort-Marke-5822"


def names_in(folder: Path) -> list[str]:
    return sorted(path.name for path in folder.iterdir())


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


def test_names_of_web_addresses(here: Path, web: Web) -> None:
    (web.folder / "log.csv").write_text(LOG, "utf-8")
    (here / "o").mkdir()
    weeks = [web.address(f"log.csv?week={week}&token={week}{week}{week}") for week in (1, 2)]
    done = mangler("run", "r.mangler", *weeks, "--to", "o/", cwd=here)
    assert done.returncode == 0 and names_in(here / "o") == ["log-week-1.csv", "log-week-2.csv"], said(done)
