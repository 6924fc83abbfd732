"""SFTP to servers whose keys are known, as `ssh` does it."""

from __future__ import annotations

import contextlib
import re
from pathlib import Path
from typing import Any
from urllib.parse import unquote, urlsplit

import paramiko
from fsspec.implementations.sftp import SFTPFileSystem

CONFIGURATION = "~/.ssh/config"
SECONDS = 20
AHEAD = 64
"""Requests of 32 KB that a server may have unanswered."""
SILENT_SECONDS = 60
"""Seconds without an answer until a connection is taken for broken."""


class TrustedServers(SFTPFileSystem):  # type: ignore[misc]
    """A server whose key is not among those in `~/.ssh/known_hosts` is refused.

    Names of hosts, users, ports and keys are as in `~/.ssh/config`; an address that says more wins.
    """

    @staticmethod
    def _get_kwargs_from_urls(urlpath: str) -> dict[str, Any]:
        parts = urlsplit(urlpath.partition("?")[0])
        found = {"host": parts.hostname, "port": parts.port, "username": parts.username}
        if parts.password is not None:
            found["password"] = unquote(parts.password)
        return {key: value for key, value in found.items() if value}

    @classmethod
    def _strip_protocol(cls, path: str) -> str:
        """The path at the server; a question mark in it is one."""
        return re.sub(r"^[^:/]+://[^/]*", "", path)

    cachable = False  # a connection that broke is not used again

    def _connect(self) -> None:
        self.client = paramiko.SSHClient()
        self.client.load_system_host_keys()
        self.client.set_missing_host_key_policy(paramiko.RejectPolicy())
        options = {**_configured(self.host), **self.ssh_kwargs}
        host = options.pop("hostname", self.host)
        self.client.connect(host, timeout=SECONDS, banner_timeout=SECONDS, auth_timeout=SECONDS, **options)
        self.ftp = self.client.open_sftp()
        self.ftp.get_channel().settimeout(SILENT_SECONDS)


def read_ahead(file: Any, size: int) -> None:
    """Lets a file be asked for in requests that do not wait for each other, from where it is to its end."""
    own = file._prefetch_thread

    def quietly(*arguments: Any) -> None:
        # Where the connection breaks, whoever reads is told; a thread would print it for everybody.
        with contextlib.suppress(Exception):
            own(*arguments)

    file._prefetch_thread = quietly
    file.prefetch(size, AHEAD)


def _configured(host: str) -> dict[str, Any]:
    """What the user's configuration of `ssh` says of a host."""
    file = Path(CONFIGURATION).expanduser()
    if not file.is_file():
        return {}
    found = paramiko.SSHConfig.from_path(str(file)).lookup(host)
    options: dict[str, Any] = {"hostname": found.get("hostname", host)}
    if "user" in found:
        options["username"] = found["user"]
    if "port" in found:
        options["port"] = int(found["port"])
    if "identityfile" in found:
        options["key_filename"] = found["identityfile"]
    return options
