"""Encodings of text: named, detected, and turned into UTF-8 on the way in."""

from __future__ import annotations

import codecs

from mangler.formats.compression import ByteStream
from mangler.late_dataclass import dataclass

NAMES = {
    "utf-8": "UTF-8",
    "cp1252": "Windows-1252",
    "iso8859-1": "Latin-1",
    "utf-16": "UTF-16",
    "utf-16-le": "UTF-16 (little-endian)",
    "utf-16-be": "UTF-16 (big-endian)",
    "utf-32": "UTF-32",
}
MARKS = {codecs.BOM_UTF8: "utf-8", codecs.BOM_UTF16_LE: "utf-16", codecs.BOM_UTF16_BE: "utf-16"}
COMMON = ("cp1252", "iso8859-1", "cp1250", "cp1251", "cp437", "mac-roman", "utf-16")
"""Encodings that are tried on bytes which are not UTF-8, to be offered."""


@dataclass(frozen=True)
class Encoding:
    """A codec by Python's name for it; `mark` is the byte order mark that the content starts with."""

    codec: str
    mark: bytes = b""

    @property
    def is_utf8(self) -> bool:
        return self.codec == "utf-8"

    @property
    def name(self) -> str:
        shown = NAMES.get(self.codec, self.codec)
        return f"{shown} with byte order mark" if self.mark else shown


def find_encoding(sample: bytes, complete: bool) -> Encoding:
    """The encoding of content that starts like this; UTF-8 wherever that can be."""
    for mark, codec in MARKS.items():
        if sample.startswith(mark):
            return Encoding(codec, mark)
    if b"\0" in sample[:4096]:
        return Encoding(utf16_without_mark(sample[:4096]))
    try:
        codecs.getincrementaldecoder("utf-8")().decode(sample, final=complete)
        return Encoding("utf-8")
    except UnicodeDecodeError:
        return Encoding(_best_guess(sample))


def utf16_without_mark(sample: bytes) -> str:
    """Text in UTF-16 has its NULs nearly all at even places, or nearly all at odd ones; anything else is binary."""
    even, odd = sample[0::2].count(0), sample[1::2].count(0)
    half = len(sample) // 2
    if half < 4:
        return "utf-8"
    if odd > half * 0.6 and even < half * 0.1:
        return "utf-16-le"
    if even > half * 0.6 and odd < half * 0.1:
        return "utf-16-be"
    return "utf-8"


def _best_guess(sample: bytes) -> str:
    """Windows-1252 where its letters make sense of the bytes; else what statistics of languages say."""
    if _reads_as_western(sample):
        return "cp1252"
    from charset_normalizer import from_bytes

    best = from_bytes(sample).best()
    return codecs.lookup(best.encoding).name if best else "iso8859-1"


def _reads_as_western(sample: bytes) -> bool:
    """Whether bytes beyond ASCII are typographic marks, and accented letters that are mostly alone among others."""
    try:
        text = sample.decode("cp1252")
    except UnicodeDecodeError:
        return False
    beyond = [index for index, character in enumerate(text) if not character.isascii()]
    common = "àáâãäåæçèéêëìíîïñòóôõöøùúûüýÿßœšžÀÁÂÃÄÅÆÇÈÉÊËÌÍÎÏÑÒÓÔÕÖØÙÚÛÜÝŒŠŽ°€£§«»“”‘’–—…·×±µ²³½¼©®™\u00a0"
    known = sum(text[index] in common for index in beyond)
    letters = {index for index in beyond if text[index].isalpha()}
    lone = sum(index - 1 not in letters and index + 1 not in letters for index in letters)
    return known >= 0.95 * len(beyond) and lone >= 0.7 * len(letters)


def fitting(content: bytes, position: int) -> list[tuple[str, str]]:
    """Encodings in which this content decodes, each with what is at the position then."""
    offers = []
    for codec in COMMON:
        try:
            content.decode(codec)
            shown = content[position : position + (2 if codec == "utf-16" else 1)].decode(codec)
        except UnicodeDecodeError:
            continue
        if shown.isprintable() and codec != "utf-16":
            offers.append((NAMES.get(codec, codec), shown))
    return offers


def offer(content: bytes, position: int) -> str:
    """Advice on bytes that do not decode: the encodings in which they would be text."""
    offers = fitting(content, position)
    if not offers:
        return "Save the extract as UTF-8; it was written in another encoding, or is damaged there."
    listed = ", ".join(f'"{name.lower()}" ({shown})' for name, shown in offers[:4])
    return f'Encodings that fit, with what the byte is in them: {listed}.\nName one in the recipe: read encoding "…".'


class Transcoded:
    """A stream's text as UTF-8.

    It ends before bytes that do not decode; `trouble` then says what they are, and `advice` what they may be.
    """

    def __init__(self, stream: ByteStream, encoding: Encoding) -> None:
        self._stream, self._encoding = stream, encoding
        self._decoder = codecs.getincrementaldecoder(encoding.codec)()
        self._ended = False
        self.trouble = ""
        self.advice = ""

    def read(self, size: int, /) -> bytes:
        while not self._ended:
            piece = self._stream.read(size) or b""
            self._ended = not piece
            try:
                text = self._decoder.decode(piece, final=self._ended)
            except UnicodeDecodeError as error:
                text = error.object[: error.start].decode(self._encoding.codec, errors="ignore")
                shown = " ".join(f"{byte:#04x}" for byte in error.object[error.start : error.end])
                self.trouble = f"the bytes {shown}, which are not {self._encoding.name}"
                self.advice = offer(error.object, error.start)
                self._ended = True
            except UnicodeError as error:  # what some codecs say of the whole
                self.trouble = f"bytes that are not {self._encoding.name}: {error}"
                self.advice = 'Name the encoding of the file: read encoding "…".'
                self._ended = True
                return b""
            if text:
                return text.encode("utf-8", errors="replace")
        return b""

    def close(self) -> None:
        self._stream.close()
