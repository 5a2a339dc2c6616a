"""Files that were compressed: gzip, xz, bzip2 and Zstandard, told by how they begin."""

import io
import zlib
from collections.abc import Callable, Iterator

from pivet.errors import InputError
from pivet.files.incoming import MOST_FILE, PIECE
from pivet.progress import Progress, silent

PACKED_SUFFIXES = (".gz", ".xz", ".bz2", ".zst")


SIP = 4096
"""Zstandard packs up to some thirty thousand times: so little is given to it at once."""


def _gzip(content: bytes) -> Iterator[bytes]:
    import gzip

    with gzip.GzipFile(fileobj=io.BytesIO(content)) as stream:
        yield from _pieces(stream.read)


def _xz(content: bytes) -> Iterator[bytes]:
    import lzma

    try:
        with lzma.LZMAFile(io.BytesIO(content)) as stream:
            yield from _pieces(stream.read)
    except lzma.LZMAError as error:
        raise OSError(error) from error


def _bzip2(content: bytes) -> Iterator[bytes]:
    import bz2

    with bz2.BZ2File(io.BytesIO(content)) as stream:
        yield from _pieces(stream.read)


def _zstd(content: bytes) -> Iterator[bytes]:
    import zstandard

    at = 0
    try:
        while at < len(content):
            frame = zstandard.ZstdDecompressor().decompressobj()
            while not frame.eof and at < len(content):
                yield frame.decompress(content[at : at + SIP])
                at += SIP
            if not frame.eof:
                raise EOFError("its last frame has no end")
            at = min(at, len(content)) - len(frame.unused_data)
    except zstandard.ZstdError as error:
        raise OSError(error) from error


def _pieces(read: Callable[[int], bytes]) -> Iterator[bytes]:
    while piece := read(PIECE):
        yield piece


FORMS: dict[bytes, Callable[[bytes], Iterator[bytes]]] = {
    b"\x1f\x8b": _gzip,
    b"\xfd7zXZ\x00": _xz,
    b"BZh": _bzip2,
    b"\x28\xb5\x2f\xfd": _zstd,
}
"""By the first bytes (RFC 1952, the .xz format, bzip2, RFC 8878)."""


def unpacked(content: bytes, where: str, progress: Progress = silent) -> bytes:
    """What was compressed; any other content as it is.

    Args:
        content: the content of a file.
        where: its name, for messages.
        progress: called now and then.

    Raises:
        InputError: it is damaged, or larger than any capture.
        Cancelled: ``progress`` raised it.
    """
    form = next((FORMS[magic] for magic in FORMS if content.startswith(magic)), None)
    if form is None:
        return content
    pieces, size = list[bytes](), 0
    try:
        for piece in form(content):
            pieces.append(piece)
            size += len(piece)
            if size > MOST_FILE:
                break
            progress(0.0)
    except (OSError, EOFError, zlib.error) as error:
        raise InputError(
            f"{where} is compressed, and damaged or cut off ({error})", "copy or record it again"
        ) from error
    if size > MOST_FILE:
        raise InputError(
            f"{where} unpacks to more than {MOST_FILE >> 20} MB", "cut it into smaller parts"
        )
    return b"".join(pieces)
