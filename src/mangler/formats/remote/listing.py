"""The files of a folder elsewhere, and the files that a pattern fits."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from mangler.addresses import WEB, scheme_of, with_password, without_password
from mangler.formats.remote.places import Place, place_of
from mangler.formats.remote.trouble import told

WILD = frozenset("*?[")
WILD_ON_THE_WEB = frozenset("*[")
"""A question mark starts the parameters of a web address."""


def is_pattern(address: str) -> bool:
    """Whether the address stands for several files."""
    return bool(set(address) & (WILD_ON_THE_WEB if scheme_of(address) in WEB else WILD))


def files_in(folder: str) -> list[str]:
    """The addresses of the files in a folder, sorted."""
    place = place_of(folder.rstrip("/") + "/" * (scheme_of(folder) in WEB))
    with told(folder):
        place.system.invalidate_cache()
        found = {str(one["name"]): one for one in place.system.ls(place.path, detail=True)}
        return _addresses(place, found)


def fitting(pattern: str) -> list[str]:
    """The addresses of the files that a pattern fits, sorted."""
    place = place_of(pattern)
    with told(pattern):
        place.system.invalidate_cache()
        return _addresses(place, place.system.glob(place.path, detail=True))


def is_there(address: str) -> bool:
    """Whether there is a file at an address."""
    place = place_of(address)
    with told(address):
        place.system.invalidate_cache()
        return bool(place.system.isfile(place.path))


def version_of(address: str) -> str:
    """What is another as soon as the file's content is; empty where its place does not tell."""
    place = place_of(address)
    with told(address):
        return place.version


def _addresses(place: Place, found: Mapping[str, Mapping[str, Any]]) -> list[str]:
    """What the file system calls files as addresses; passwords are hidden again."""
    full = with_password(place.address)
    own = place.path.rstrip("/")
    at = full.rstrip("/").rfind(own)
    before = full[:at] if own and at >= 0 else full
    return [without_password(f"{before}{name}") for name in _files(found, own)]


def _files(found: Mapping[str, Mapping[str, Any]], own: str) -> Iterable[str]:
    """Files that have something in them to be called; a folder lists itself in some places."""
    for name, info in sorted(found.items()):
        if info.get("type") == "file" and name.rstrip("/") != own and not name.endswith("/"):
            yield name
