"""Places with files, whatever reaches them, for tests of the installed program."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from tests.storage_servers import BUCKET, Objects, Sftp

ROWS = "".join(f" k{n % 7} ;Ann Møller;{900 + n % 50} °C\n" for n in range(500))
LOG = "kiln;potter;peak\n" + ROWS
RECIPE = 'mangler 1\ntrim *\nconvert peak to integer without "°C"\n'


@dataclass(frozen=True)
class Elsewhere:
    """A place with files, whatever reaches it."""

    address: Callable[[str], str]
    put: Callable[[str, bytes], None]
    get: Callable[[str], bytes]
    names: Callable[[str], list[str]]
    env: dict[str, str]


def by_sftp(sftp: Sftp, own: str) -> Elsewhere:
    folder = sftp.folder / own
    folder.mkdir()

    def put(name: str, content: bytes) -> None:
        (folder / name).parent.mkdir(exist_ok=True, parents=True)
        (folder / name).write_bytes(content)

    return Elsewhere(
        lambda name: sftp.address(f"{own}/{name}"),
        put,
        lambda name: (folder / name).read_bytes(),
        lambda name: sorted(path.name for path in (folder / name).iterdir()),
        sftp.environment,
    )


def in_objects(objects: Objects, own: str) -> Elsewhere:
    return Elsewhere(
        lambda name: f"s3://{BUCKET}/{own}/{name}",
        lambda name, content: objects.put(f"{own}/{name}", content),
        lambda name: objects.get(f"{own}/{name}"),
        lambda name: [key.rpartition("/")[2] for key in objects.keys if key.startswith(f"{own}/{name}")],
        objects.environment,
    )
