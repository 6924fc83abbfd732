"""Which driver an address needs, and the connection by it."""

from __future__ import annotations

from importlib import import_module

from mangler.addresses import SCHEMES, scheme_of
from mangler.formats.database.contract import Connection
from mangler.language.mistake import file_trouble

DRIVERS = {
    "SQLite": "mangler.formats.database.sqlite",
    "PostgreSQL": "mangler.formats.database.postgresql",
}


def connect(address: str, writes: bool) -> Connection:
    """Connects to the database of an address without a table. Only with `writes` anything can be changed there."""
    database = SCHEMES[scheme_of(address)]
    try:
        driver = import_module(DRIVERS[database])
    except ModuleNotFoundError as error:
        raise file_trouble(
            "driver-not-installed",
            f"{address} cannot be reached: {error.name} is not installed",
            "pip install 'mangler[database]' brings the drivers of databases.",
        ) from None
    found: Connection = driver.connect(address, address, writes)
    return found


def database_of(address: str) -> str:
    """What kind of database it is, for messages."""
    return SCHEMES[scheme_of(address)]
