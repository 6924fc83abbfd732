"""Addresses of databases, `postgresql://host/db`, and the passwords in them, which nothing else ever sees.

An address loses its passwords as soon as it comes in from outside; whoever connects asks for them again. RFC 3986 says
how an address is put together.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from pathlib import Path
from urllib.parse import parse_qsl, quote, unquote, urlencode, urlsplit

SCHEMES = {"sqlite": "SQLite", "postgresql": "PostgreSQL", "postgres": "PostgreSQL"}
"""The databases that can be reached, by the scheme of their addresses."""
ADDRESS = re.compile(r"([A-Za-z][A-Za-z0-9+.-]*)://")
SECRET_PARAMETERS = frozenset({"password", "sslpassword"})
LEAST_SECRET = 3
"""Characters of a password that is looked for in messages."""
HIDDEN = "***"
_passwords: dict[str, str] = {}
"""Addresses with their passwords, by the address without them."""
_secrets: set[str] = set()


def scheme_of(address: str) -> str:
    """The scheme of an address in small letters; empty for the name of a file."""
    found = ADDRESS.match(address)
    return found.group(1).lower() if found else ""


def is_database(address: str) -> bool:
    return scheme_of(address) in SCHEMES


def without_password(address: str) -> str:
    """An address as everybody may see it; what it hid is remembered. A name of a file is given back as it is."""
    if not is_database(address):  # nobody will ever connect to it
        return hidden(address) if scheme_of(address) else address
    table = ""
    parts = urlsplit(address)
    if parts.fragment:
        table = f"#{parts.fragment}"
    user, at, host = parts.netloc.rpartition("@")
    name, colon, password = user.partition(":")
    pairs = parse_qsl(parts.query, keep_blank_values=True)
    found = [value for key, value in pairs if key.lower() in SECRET_PARAMETERS]
    if not colon and not found:
        return address
    _secrets.update(one for one in (password, unquote(password), *found) if len(one) >= LEAST_SECRET)
    kept = urlencode([pair for pair in pairs if pair[0].lower() not in SECRET_PARAMETERS], safe="/:,")
    shown = f"{parts.scheme}://{name}{at}{host}{parts.path}" + f"?{kept}" * bool(kept)
    _passwords[shown] = address.partition("#")[0]
    return shown + table


def hidden(address: str) -> str:
    """Any address without what may be a password in it."""
    return re.sub(r"(://[^/@:]*):[^/@]*@", r"\1@", address)


def with_password(address: str) -> str:
    """The address to connect to, with what was hidden of it."""
    return _passwords.get(address, address)


def file_of(address: str) -> Path | None:
    """The file of a database that is one: `sqlite:///clean.db`, and `sqlite:////data/clean.db` from the root."""
    parts = urlsplit(address)
    if scheme_of(address) != "sqlite" or parts.netloc or not parts.path.strip("/"):
        return None
    return Path(unquote(parts.path[1:]))


def beside(address: str, folder: Path) -> str:
    """An address whose file is found relative to a folder."""
    file = file_of(address)
    if file is None:
        return address
    table = f"#{urlsplit(address).fragment}" if "#" in address else ""
    return f"sqlite:///{quote(str(folder / file))}{table}"


def known_passwords() -> Mapping[str, str]:
    """What was hidden, for another process of this run."""
    return dict(_passwords)


def take_over(passwords: Mapping[str, str]) -> None:
    """Takes over what another process has hidden."""
    for full in passwords.values():
        without_password(full)


def scrubbed(text: str) -> str:
    """A message of a driver without the passwords that it may repeat."""
    for secret in sorted(_secrets, key=len, reverse=True):
        text = text.replace(secret, HIDDEN)
    return text
