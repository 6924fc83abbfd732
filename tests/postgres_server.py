"""A server of PostgreSQL for tests: its own, in a temporary folder, on a socket there."""

from __future__ import annotations

import contextlib
import os
import pwd
import shutil
import subprocess
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import pytest
from tests.storage_servers import HOST, free_port, make_certificate

UNPRIVILEGED = "nobody"
"""The server refuses to run for root."""


@dataclass(frozen=True)
class Server:
    folder: Path
    programs: Path
    port: int

    @property
    def address(self) -> str:
        return f"postgresql://tester:sesame-99@/postgres?host={self.folder}&port={self.port}"

    @property
    def shown(self) -> str:
        return f"postgresql://tester@/postgres?host={self.folder}&port={self.port}"

    def by_network(self, port: int | None = None, more: str = "sslmode=disable") -> str:
        """On loopback, perhaps at the port of somebody between."""
        return f"postgresql://tester@{HOST}:{port or self.port}/postgres?{more}"

    def run(self, *statements: str) -> list[tuple[Any, ...]]:
        """What the last of these statements gives, each in a transaction of its own."""
        import adbc_driver_postgresql.dbapi as driver

        rows: list[tuple[Any, ...]] = []
        with driver.connect(self.address, autocommit=True) as connection:
            for statement in statements:
                with connection.cursor() as cursor:
                    cursor.execute(statement)
                    with contextlib.suppress(Exception):
                        rows = [tuple(row) for row in cursor.fetchall()]
        return rows


def programs() -> Path | None:
    """The folder of the server's programs."""
    found = shutil.which("initdb")
    folders = [Path(found).resolve().parent] if found else []
    folders += sorted(Path("/usr/lib/postgresql").glob("*/bin"), reverse=True)
    return next((folder for folder in folders if (folder / "initdb").exists()), None)


@contextlib.contextmanager
def started() -> Iterator[Server]:
    own = programs()
    if own is None:
        pytest.skip("PostgreSQL's server is not installed: apt-get install postgresql")
    folder = Path(tempfile.mkdtemp(prefix="mangler-"))
    user: dict[str, Any] = {}
    if os.geteuid() == 0:
        other = pwd.getpwnam(UNPRIVILEGED)
        os.chown(folder, other.pw_uid, other.pw_gid)
        user = {"user": other.pw_uid, "group": other.pw_gid, "extra_groups": []}
    folder.chmod(0o755)
    data = folder / "data"

    def run(program: str, *words: str) -> None:
        done = subprocess.run(
            [own / program, *words], cwd=folder, capture_output=True, text=True, check=False, **user
        )
        assert done.returncode == 0, done.stdout + done.stderr

    try:
        run("initdb", "-D", str(data), "-U", "tester", "-A", "trust", "--no-sync", "-E", "UTF8")
        make_certificate(data / "server.key", data / "server.crt")
        (data / "server.key").chmod(0o600)
        if user:
            os.chown(data / "server.key", user["user"], user["group"])
        port = free_port()
        options = f"-k {folder} -c listen_addresses={HOST} -p {port} -c fsync=off -c ssl=on"
        run("pg_ctl", "-D", str(data), "-w", "-o", options, "-l", str(folder / "log"), "start")
        try:
            yield Server(folder, own, port)
        finally:
            run("pg_ctl", "-D", str(data), "-m", "immediate", "stop")
    finally:
        shutil.rmtree(folder, ignore_errors=True)
