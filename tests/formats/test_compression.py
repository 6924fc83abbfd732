from __future__ import annotations

import bz2
import gzip
import lzma
from io import BytesIO
from pathlib import Path

import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.cli.program import mangler

from mangler.engine.run.linked_recipe import LinkedRecipe
from mangler.engine.run.options import RunOptions
from mangler.formats.compression import CountedStream
from mangler.kernels.content_digest import ContentDigest
from mangler.language.mistake import ExitCode, Refusal

ROWS = b"a;b\n" + b"".join(b"%d;x\n" % number for number in range(50_000))


def zstd(content: bytes) -> bytes:
    return bytes(pa.Codec("zstd").compress(content, asbytes=True))


def unzstd(content: bytes) -> bytes:
    return bytes(pa.CompressedInputStream(pa.BufferReader(content), "zstd").read())


KINDS = {
    "gz": (gzip.compress, gzip.decompress, "gzip"),
    "bz2": (bz2.compress, bz2.decompress, "bzip2"),
    "xz": (lzma.compress, lzma.decompress, "xz"),
    "zst": (zstd, unzstd, "zstd"),
}


@pytest.mark.parametrize("ending", KINDS)
def test_read_by_content_and_written_by_name(tmp_path: Path, ending: str) -> None:
    compress, decompress, said = KINDS[ending]
    extract, out = tmp_path / "extract", tmp_path / f"out.csv.{ending}"
    extract.write_bytes(compress(ROWS))
    result = LinkedRecipe.parse("mangler 1").run(extract, out, options=RunOptions(partition_size=100_000))
    assert result.summary.detected["compression"] == said
    assert decompress(out.read_bytes()) == ROWS
    again = LinkedRecipe.parse("mangler 1").run(out)
    assert len(again.table) == 50_000


@pytest.mark.parametrize("ending", KINDS)
def test_two_compressed_files_one_after_the_other_are_one(tmp_path: Path, ending: str) -> None:
    compress = KINDS[ending][0]
    extract = tmp_path / "extract"
    extract.write_bytes(compress(b"a;b\n1;2\n") + compress(b"3;4\n"))
    assert len(LinkedRecipe.parse("mangler 1").run(extract).table) == 2


@pytest.mark.parametrize("ending", KINDS)
def test_a_damaged_file_is_reported(tmp_path: Path, ending: str) -> None:
    compress, _, said = KINDS[ending]
    extract, out = tmp_path / "extract.csv", tmp_path / "o.csv"
    packed = bytearray(compress(ROWS))
    extract.write_bytes(packed[: len(packed) // 2])
    with pytest.raises(Refusal, match=rf"cannot be decompressed \({said}\)") as refused:
        LinkedRecipe.parse("mangler 1").run(extract, out)
    assert refused.value.code is ExitCode.FILE_TROUBLE and not out.exists()


def test_compressed_standard_input(tmp_path: Path) -> None:
    (tmp_path / "r.mangler").write_text("mangler 1")
    done = mangler("run", "r.mangler", "-", cwd=tmp_path, stdin=gzip.compress(b"a;b\n1;2\n"))
    assert (done.returncode, done.stdout) == (0, b"a;b\n1;2\n")


def test_the_same_content_is_compressed_to_the_same_bytes(tmp_path: Path) -> None:
    extract = tmp_path / "e.csv"
    extract.write_bytes(ROWS)
    for name in ("one.csv.gz", "two.csv.gz"):
        LinkedRecipe.parse("mangler 1").run(extract, tmp_path / name)
    assert (tmp_path / "one.csv.gz").read_bytes() == (tmp_path / "two.csv.gz").read_bytes()


@given(
    st.binary(max_size=60),
    st.integers(1, 9),
    st.integers(0, 9),
    st.integers(0, 3),
    st.booleans(),
    st.booleans(),
)
def test_bytes_come_alike_into_room_that_is_given(
    content: bytes, room: int, peeked: int, more: int, fills: bool, digests: bool
) -> None:
    """Whether the stream puts them there, has them copied, or gives more than it was asked for."""

    class Generous:
        def __init__(self) -> None:
            self.rest = BytesIO(content)

        def read(self, size: int, /) -> bytes:
            return self.rest.read(size + more)

        def close(self) -> None:
            pass

    stream = CountedStream(BytesIO(content) if fills else Generous(), digests)
    stream.peek(peeked)
    got = bytearray()
    while count := stream.readinto(own := memoryview(bytearray(room))):
        got += own[:count]
        assert stream.position == len(got)
    assert bytes(got) == content and stream.ended
    wanted = ContentDigest()
    wanted.update(content)
    assert stream.digest() == (wanted.hexdigest() if digests else None)
