"""PostgreSQL where it fails in the middle: a proxy that drops, a disk that is full, a certificate that does not fit."""

from __future__ import annotations

import os
import pwd
import secrets
import subprocess
from collections.abc import Iterator
from pathlib import Path

import pytest
from tests.postgres_server import UNPRIVILEGED, Server
from tests.storage_servers import Breaking

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.language.mistake import ExitCode, Refusal

ROWS = "k\n" + "".join(f"row {number} of many\n" for number in range(200_000))


@pytest.fixture
def table(postgres: Server) -> Iterator[str]:
    """A table with one row."""
    name = f"t_{secrets.token_hex(6)}"
    postgres.run(f'CREATE TABLE "{name}" (k text)', f"INSERT INTO \"{name}\" VALUES ('before')")
    yield name
    postgres.run(f'DROP TABLE IF EXISTS "{name}"')


@pytest.fixture
def extract(tmp_path: Path) -> Path:
    path = tmp_path / "e.csv"
    path.write_text(ROWS, "utf-8")
    return path


def refused(recipe: str, extract: str | Path, to: str | Path) -> str:
    with pytest.raises(Refusal) as caught:
        LinkedRecipe.parse(f"mangler 1\n{recipe}\n").run(str(extract), to)
    assert caught.value.code is ExitCode.FILE_TROUBLE
    return str(caught.value)


@pytest.mark.parametrize("way", ["append", "replace"])
def test_a_proxy_that_drops_while_rows_are_written(
    postgres: Server, table: str, extract: Path, way: str
) -> None:
    breaking = Breaking(postgres.port, 2_000_000, 1, requests=True)
    told = refused(f'write table "{table}" {way}', extract, postgres.by_network(breaking.port))
    breaking.close()
    assert breaking.dropped == 1 and "is not written" in told
    assert postgres.run(f"SELECT * FROM {table}") == [("before",)]


def test_a_proxy_that_drops_while_rows_are_read(postgres: Server, tmp_path: Path) -> None:
    breaking = Breaking(postgres.port, 2_000_000, 1)
    query = "read query \"select g, repeat('x', 100) as x from generate_series(1, 300000) g\""
    told = refused(query, postgres.by_network(breaking.port), tmp_path / "o.csv")
    breaking.close()
    assert breaking.dropped == 1 and "cannot be read to its end" in told
    assert not (tmp_path / "o.csv").exists()


@pytest.fixture
def small_disk(postgres: Server) -> Iterator[str]:
    """A tablespace of 8 MB."""
    folder = postgres.folder / f"small-{secrets.token_hex(4)}"
    folder.mkdir()
    words = ["mount", "-t", "tmpfs", "-o", "size=8m", "tmpfs", folder]
    if os.geteuid() != 0 or subprocess.run(words, check=False, capture_output=True).returncode != 0:
        folder.rmdir()
        pytest.skip("a disk of 8 MB needs the right to mount one")
    other = pwd.getpwnam(UNPRIVILEGED)
    os.chown(folder, other.pw_uid, other.pw_gid)
    postgres.run(f"CREATE TABLESPACE small_disk LOCATION '{folder}'")
    yield "small_disk"
    postgres.run("DROP TABLESPACE small_disk")
    subprocess.run(["umount", folder], check=True)
    folder.rmdir()


def test_a_disk_that_is_full_at_the_server(
    postgres: Server, table: str, extract: Path, small_disk: str
) -> None:
    postgres.run(f"ALTER TABLE {table} SET TABLESPACE {small_disk}")
    for way in ("append", "replace"):
        told = refused(f'write table "{table}" {way}', extract, postgres.address)
        assert "is not written" in told and "No space left on device" in told
        assert postgres.run(f"SELECT * FROM {table}") == [("before",)]
    postgres.run(f"ALTER TABLE {table} SET TABLESPACE pg_default")


def test_a_certificate_that_does_not_fit(postgres: Server, table: str, tmp_path: Path) -> None:
    own = postgres.folder / "data" / "server.crt"
    for more, message in (
        (f"sslmode=verify-full&sslrootcert={own}", "does not match host name"),
        (f"sslmode=verify-ca&sslrootcert={tmp_path / 'none.crt'}", "does not exist"),
        ("sslmode=verify-full", "root certificate file"),
    ):
        told = refused(f'read table "{table}"', postgres.by_network(more=more), tmp_path / "o.csv")
        assert "cannot be reached" in told and message in told
    trusted = postgres.by_network(more=f"sslmode=verify-ca&sslrootcert={own}")
    LinkedRecipe.parse(f'mangler 1\nread table "{table}"\n').run(trusted, tmp_path / "o.csv")
    assert (tmp_path / "o.csv").read_text("utf-8") == "k\nbefore\n"
