"""Where an address leads: the library that reaches it, and its path there."""

from __future__ import annotations

import re
from functools import cached_property
from typing import Any

from mangler.addresses import SCHEMES, WEB, scheme_of, with_password
from mangler.formats.remote.trouble import OWN_EXTRA, not_installed, told
from mangler.language.mistake import file_trouble
from mangler.late_dataclass import dataclass

OBJECTS = frozenset({"s3", "s3a", "gs", "gcs", "abfs", "abfss", "az", "adl", "oss", "oci", "tos"})
"""Storage of objects: one appears whole when its upload is completed, and has no folders."""
NOT_ELSEWHERE = re.compile(
    r"(arrow_hdfs|async_?wrapper|asynclocal|.*cache|cached|dask|data|dir|file|generic|libarchive|local|memory|pyscript"
    r"|reference|tar|zip)"
)
"""What fsspec knows besides that is on this machine, or around another address."""
SECOND_NAMES = ("s3a", "ssh", "postgres")
CONNECT_SECONDS, READ_SECONDS = 20, 60
"""Seconds that a server has for an answer."""


@dataclass(frozen=True)
class Place:
    """A file or a folder elsewhere."""

    address: str
    """As it is shown."""
    system: Any
    """The file system of fsspec."""
    path: str
    """As the file system names it."""

    @property
    def is_object(self) -> bool:
        return scheme_of(self.address) in OBJECTS

    @cached_property
    def info(self) -> dict[str, Any]:
        """What is known of the file: type, size, when it was changed."""
        self.system.invalidate_cache()
        found: dict[str, Any] = self.system.info(self.path)
        return found

    @property
    def version(self) -> str:
        """What is another as soon as the content is; empty where the place has no such mark."""
        info = self.info
        mark = next((info[key] for key in ("ETag", "etag", "md5Hash", "content_md5") if info.get(key)), None)
        mark = mark or next(
            (info[key] for key in ("mtime", "LastModified", "last_modified") if info.get(key)), None
        )
        return f"{mark} {info.get('size')}" if mark else ""


def place_of(address: str) -> Place:
    """The place of an address. Nothing is asked of it yet, but that somebody may have to log in."""
    scheme = scheme_of(address)
    refuse_unknown(address)
    try:
        full = with_password(address)
        with told(address):
            kind = _kind_of(scheme)
            found = kind(**{**kind._get_kwargs_from_urls(full), **_options(scheme)})
            return Place(address, found, str(found._strip_protocol(full)))
    except ImportError as error:
        raise not_installed(address, scheme, error) from None


def refuse_unknown(address: str) -> None:
    """Refuses an address of a kind that nothing reaches, without asking anybody."""
    scheme = scheme_of(address)
    try:
        from fsspec import available_protocols
    except ImportError as error:
        raise not_installed(address, scheme, error) from None
    if NOT_ELSEWHERE.fullmatch(scheme) or scheme not in available_protocols():
        known = ", ".join(f"{one}://" for one in (*OWN_EXTRA, *SCHEMES) if one not in SECOND_NAMES)
        raise file_trouble(
            "unknown-address",
            f"{address} cannot be reached: {scheme}:// is not known",
            f"Known are {known}, others that fsspec has drivers for, and the paths of files.",
        )


def _kind_of(scheme: str) -> Any:
    """The class of file systems. Of SFTP it is our own, as the library's trusts any server."""
    import fsspec

    if scheme in ("sftp", "ssh"):
        from mangler.formats.remote.sftp import TrustedServers

        return TrustedServers
    return fsspec.get_filesystem_class(scheme)


def _options(scheme: str) -> dict[str, Any]:
    if scheme in WEB:
        from aiohttp import ClientTimeout

        timeout = ClientTimeout(total=None, sock_connect=CONNECT_SECONDS, sock_read=READ_SECONDS)
        return {"client_kwargs": {"timeout": timeout, "trust_env": True}}
    if scheme in ("s3", "s3a"):
        return {
            "config_kwargs": {
                "connect_timeout": CONNECT_SECONDS,
                "read_timeout": READ_SECONDS,
                "retries": {"max_attempts": 1},
            }
        }
    return {}
