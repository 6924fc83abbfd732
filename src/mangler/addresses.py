"""Addresses, `postgresql://host/db` or `s3://bucket/week.csv`, and the secrets in them, which nothing else ever sees.

An address loses its passwords as soon as it comes in from outside; whoever connects asks for them again. RFC 3986 says
how an address is put together.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from pathlib import Path, PurePosixPath
from urllib.parse import parse_qsl, quote, unquote, urlencode, urlsplit

SCHEMES = {"sqlite": "SQLite", "postgresql": "PostgreSQL", "postgres": "PostgreSQL"}
"""The databases that can be reached, by the scheme of their addresses."""
ADDRESS = re.compile(r"([A-Za-z][A-Za-z0-9+.-]*)://")
WEB = ("http", "https")
SECRET_PARAMETERS = frozenset({"password", "sslpassword"})
SECRET_QUERY = re.compile(
    r"([?&][^=&#]*(?:sig|token|key|secret|pass|pwd|auth|credential|code)[^=&#]*=)([^&#]*)", re.IGNORECASE
)
"""Parameters of web addresses by which somebody is let in: signed addresses, tokens, keys."""
LEAST_SECRET = 3
"""Characters of a password that is looked for in messages."""
HIDDEN = "(hidden)"
"""No pattern, as an address with it may be asked for again."""
_passwords: dict[str, str] = {}
"""Addresses with their passwords, by the address without them."""
_secrets: set[str] = set()


def scheme_of(address: str) -> str:
    """The scheme of an address in small letters; empty for the name of a file."""
    found = ADDRESS.match(address)
    return found.group(1).lower() if found else ""


def is_database(address: str) -> bool:
    return scheme_of(address) in SCHEMES


def is_remote(address: str) -> bool:
    """Whether it is the address of a file that is not on this machine; of which kind is seen when it is opened."""
    return scheme_of(address) not in ("", *SCHEMES)


def is_elsewhere(address: str) -> bool:
    """Whether it is an address, of a database or of a file elsewhere, and no path."""
    return bool(scheme_of(address))


def without_password(address: str) -> str:
    """An address as everybody may see it; what it hid is remembered. A name of a file is given back as it is."""
    if is_remote(address):
        return _remote_without_secrets(address)
    if not is_database(address):
        return address
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
    _remember(password, *found)
    kept = urlencode([pair for pair in pairs if pair[0].lower() not in SECRET_PARAMETERS], safe="/:,")
    shown = f"{parts.scheme}://{name}{at}{host}{parts.path}" + f"?{kept}" * bool(kept)
    _passwords[shown] = address.partition("#")[0]
    return shown + table


def _remember(*secrets: str) -> None:
    every = (spelled for one in secrets for spelled in (one, unquote(one)))
    _secrets.update(one for one in every if len(one) >= LEAST_SECRET)


def _remote_without_secrets(address: str) -> str:
    """Without a password, and without the values of parameters that let somebody in, as signatures and tokens."""
    full, mark, part = address.partition("#")
    scheme, _, rest = full.partition("://")
    host, path = re.match(r"([^/?]*)(.*)", rest, re.DOTALL).groups()  # type: ignore[union-attr]
    user, at, server = host.rpartition("@")
    name, colon, password = user.partition(":")
    if at and scheme.lower() in WEB:  # the name may be a token
        _remember(name)
        name, colon = "", ":"
    origin = f"{scheme}://{name}{at * bool(name)}{server}"
    found = [value for _, value in SECRET_QUERY.findall(path) if not value.startswith(HIDDEN)]
    if not found and not colon:
        return address
    _remember(password, *found)
    shown = origin + path
    if found:
        shown = _distinct(SECRET_QUERY.sub(rf"\1{HIDDEN}", shown), full)
    _passwords[shown] = full
    if colon:  # for what is listed there
        _passwords[origin] = f"{scheme}://{host}"
    return shown + mark + part


def _distinct(shown: str, full: str) -> str:
    """Two addresses that differ only in what is hidden stay two."""
    number, own = 1, shown
    while _passwords.get(own, full) != full:
        number += 1
        own = f"{shown}{number}"
    return own


def with_password(address: str) -> str:
    """The address to connect to, with what was hidden of it."""
    if address in _passwords or not is_remote(address):
        return _passwords.get(address, address)
    origin = re.match(r"[^:]*://[^/?#]*", address).group()  # type: ignore[union-attr]
    return _passwords.get(origin, origin) + address[len(origin) :]


def name_of(address: str) -> str:
    """The name of a file elsewhere, as a name of a file here; parameters of a web address are part of it."""
    path = re.sub(r"^[^:]*://[^/?#]*/?", "", address.partition("#")[0])
    query = ""
    if scheme_of(address) in WEB:
        path, _, query = path.partition("?")
        path = unquote(path)
    name = PurePosixPath(path.rstrip("/") or "table").name
    pairs = [pair for pair in query.split("&") if not pair.endswith(HIDDEN) and not pair.startswith("X-")]
    told = re.sub(r"[^\w.\-]+", "-", unquote("-".join(pairs)).replace(HIDDEN, "")).strip("-.")
    stem, dot, ending = name.partition(".")
    return f"{stem}-{told}{dot}{ending}" if told else name


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
