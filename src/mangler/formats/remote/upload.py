"""Files put in their places elsewhere whole or not at all, by one upload."""

from __future__ import annotations

import contextlib
import secrets
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

from fsspec.spec import AbstractFileSystem

from mangler.addresses import WEB, scheme_of
from mangler.formats.delivery import PART_SUFFIX
from mangler.formats.remote.places import Place, place_of
from mangler.formats.remote.trouble import not_written, told
from mangler.language.mistake import file_trouble

STALE = timedelta(days=1)
"""How old an unfinished upload is that no run goes on with any more."""


def put(file: Path, there: Place) -> None:
    """Uploads a file. What is in its place is replaced when all of it has come."""
    system = there.system
    if there.is_object:
        try:
            system.put_file(str(file), there.path)
        except Exception as error:
            raise not_written(there.address, error) from None
        return
    folder, _, name = there.path.rpartition("/")
    part = f"{folder}/.{name}.{secrets.token_hex(4)}{PART_SUFFIX}"
    try:
        system.put_file(str(file), part)
        system.invalidate_cache()
        arrived = system.info(part)["size"]
        if arrived != file.stat().st_size:
            raise OSError(f"{arrived:,} of {file.stat().st_size:,} bytes arrived")
        system.mv(part, there.path)
    except Exception as error:
        with contextlib.suppress(Exception):
            system.rm_file(part)
        raise not_written(there.address, error) from None


def writable(address: str) -> Place:
    """The place of an output, where a file can be put whole or not at all."""
    if scheme_of(address) in WEB:
        raise file_trouble(
            "file-not-written",
            f"{address} cannot be written: the web is read only",
            "Name a file here, or an address of s3:// or sftp://.",
        )
    there = place_of(address)
    if not there.is_object and type(there.system).mv is AbstractFileSystem.mv:
        raise file_trouble(
            "file-not-written",
            f"{address} cannot be written: {scheme_of(address)}:// has no way to put a file in its place at once",
            "Name a file here, or an address of s3:// or sftp://.",
        )
    with told(address):
        if there.is_object:
            _refuse_without_bucket(there)
        else:
            _look_around(there)
    return there


def _refuse_without_bucket(there: Place) -> None:
    """Rows are not cleaned for hours for a bucket that is not there. One that may not be listed may be written."""
    bucket = there.path.partition("/")[0]
    try:
        is_there = there.system.exists(bucket)
    except PermissionError:
        return
    if not is_there:
        raise file_trouble(
            "no-such-folder", f"{there.address} cannot be written: there is no {bucket}", "Make it first."
        )


def _look_around(there: Place) -> None:
    """The folder must be there; parts of uploads that ended long ago are taken away."""
    folder, _, name = there.path.rpartition("/")
    system = there.system
    try:
        around = system.ls(folder or "/", detail=True)
    except FileNotFoundError:
        raise file_trouble(
            "no-such-folder",
            f"{there.address} cannot be written: the folder {folder} does not exist there",
            "Make the folder first.",
        ) from None
    for one in around:
        own = str(one["name"]).rstrip("/").rpartition("/")[2]
        if own == name and one.get("type") == "directory":
            raise file_trouble(
                "path-is-folder", f"{there.address} cannot be written: it is a folder", "Name a file in it."
            )
        if own.startswith(f".{name}.") and own.endswith(PART_SUFFIX) and _is_stale(one):
            with contextlib.suppress(Exception):
                system.rm_file(str(one["name"]))


def _is_stale(info: dict[str, Any]) -> bool:
    changed = info.get("mtime")
    return isinstance(changed, datetime) and datetime.now(UTC) - changed > STALE
