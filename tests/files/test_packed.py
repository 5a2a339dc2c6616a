"""Compressed captures, and captures whose name says nothing."""

import bz2
import gzip
import lzma
from unittest import mock

import zstandard

from pivet.errors import InputError
from pivet.files import packed
from pivet.files.captures import read_capture, write_capture
from tests.base import CAPTURES, PivetTest

PACKERS = {
    ".gz": gzip.compress,
    ".bz2": bz2.compress,
    ".xz": lzma.compress,
    ".zst": zstandard.ZstdCompressor().compress,
}


class Packed(PivetTest):
    """What a capture holds does not depend on how it lies there."""

    def test_every_form(self) -> None:
        """Also in two parts one behind the other, under any name."""
        for name in ("av_dht22.vcd", "csv_edges_dht22.csv"):
            content = (CAPTURES / name).read_bytes()
            wanted = read_capture(CAPTURES / name).edge_count
            half = len(content) // 2
            for ending, pack in PACKERS.items():
                whole = self.folder / f"whole{ending}"
                whole.write_bytes(pack(content))
                self.assertEqual(wanted, read_capture(whole).edge_count, ending)
                whole.write_bytes(pack(content[:half]) + pack(content[half:]))
                self.assertEqual(wanted, read_capture(whole).edge_count, ending)

    def test_damaged(self) -> None:
        """Cut off, or with wrong bytes in it: one sentence that says so."""
        content = (CAPTURES / "av_dht22.vcd").read_bytes()
        for ending, pack in PACKERS.items():
            good = pack(content)
            for bad in (good[:-20], good[:40] + b"\x55\x55\x55" + good[43:], good[:8]):
                path = self.folder / f"bad{ending}"
                path.write_bytes(bad)
                with self.assertRaisesRegex(InputError, "compressed, and damaged"):
                    read_capture(path)

    def test_a_bomb(self) -> None:
        """What unpacks to more than any capture is refused before it fills the memory."""
        path = self.folder / "bomb.gz"
        path.write_bytes(gzip.compress(b"0" * 50_000_000))
        with mock.patch.object(packed, "MOST_FILE", 1 << 24):
            with self.assertRaisesRegex(InputError, "unpacks to more than 16 MB"):
                read_capture(path)
            just = gzip.compress(b"0" * (1 << 24))
            self.assertEqual(1 << 24, len(packed.unpacked(just, "just")))

    def test_told_by_content(self) -> None:
        """A wrong ending does not matter, and messages name the file as it was given."""
        trace = read_capture(CAPTURES / "av_dht22.vcd")
        for ending, other in ((".vcd", ".csv"), (".csv", ".vcd")):
            write_capture(trace, self.folder / f"a{ending}")
            (self.folder / f"a{ending}").rename(self.folder / f"b{other}")
            self.assertEqual(trace.edge_count, read_capture(self.folder / f"b{other}").edge_count)
        bad = self.folder / "bad"
        bad.write_text("nothing at all")
        with self.assertRaisesRegex(InputError, "^here/bad "):
            read_capture(bad, where="here/bad")
