"""Files that vanish, are forbidden, empty or binary, and disks that are full."""

import errno
import os
import subprocess
import sys
import threading
from contextlib import ExitStack
from pathlib import Path
from unittest import mock

import numpy as np

from pivet.errors import Cancelled, InputError, OutputError
from pivet.files import (
    csv_rows,
    disk,
    edge_csv,
    incoming,
    readings_log,
    vcd_body,
    vcd_write,
)
from pivet.files.captures import read_capture, write_capture
from pivet.signal.trace import Level, Line, Trace
from tests.base import CAPTURES, PivetTest


class Reading(PivetTest):
    """One sentence for whatever cannot be read."""

    def refusal(self, path: Path) -> str:
        """The sentence with which a file is refused."""
        with self.assertRaises(InputError) as caught:
            read_capture(path)
        return str(caught.exception)

    def test_not_there(self) -> None:
        """A name without a file."""
        self.assertIn("is not there", self.refusal(self.folder / "no.vcd"))

    def test_folder(self) -> None:
        """A folder is no file."""
        self.assertIn("is a folder", self.refusal(self.folder))

    def test_empty_and_blank(self) -> None:
        """Empty, blank and zeroed files."""
        for content in (b"", b"\n \n", bytes(4000)):
            for name in ("a.vcd", "a.csv"):
                path = self.folder / name
                path.write_bytes(content)
                self.assertIn("is empty", self.refusal(path))

    def test_binary(self) -> None:
        """Noise is neither VCD nor CSV."""
        for name in ("a.vcd", "a.csv", "a.bin"):
            path = self.folder / name
            path.write_bytes(bytes(range(256)) * 40)
            self.refusal(path)

    def test_vanishes_while_read(self) -> None:
        """An error in the middle of reading is a sentence too."""
        path = self.folder / "a.vcd"
        path.write_bytes(b"$x" * 100)
        gone = OSError(errno.EIO, "Input/output error")
        with mock.patch.object(os, "read", side_effect=[b"$timescale", gone]):
            self.assertIn("cannot be read (Input/output error)", self.refusal(path))

    def test_no_file(self) -> None:
        """Devices are refused; a file that grows, and one that shrinks, while it is read."""
        for name in ("/dev/zero", "/dev/null", "/dev/tty0", "/proc/self/maps", "a\0b"):
            if "\0" in name or Path(name).exists():
                with self.assertRaises(InputError):
                    read_capture(Path(name))
        path = self.folder / "a.vcd"
        path.write_bytes(b"$x" * 100)
        for piece in (b"$x" * 101, b"$x" * 99):
            with mock.patch.object(os, "read", side_effect=[piece, b""]):
                self.assertIn("changed while it was read", self.refusal(path))

    def test_too_large(self) -> None:
        """A file of holes only is not taken into memory."""
        path = self.folder / "a.vcd"
        with path.open("wb") as stream:
            stream.truncate(1 << 42)
        self.assertIn("larger than 4096 MB", self.refusal(path))

    def test_pipe(self) -> None:
        """What comes through a pipe is read; one into which nobody writes is said."""
        path, threads = self.folder / "pipe", threading.active_count()
        os.mkfifo(path)
        content = (CAPTURES / "av_dht22.vcd").read_bytes()
        writer = threading.Thread(target=path.write_bytes, args=(content,))
        writer.start()
        self.assertGreater(read_capture(path).edge_count, 100)
        writer.join()
        self.assertIn("into which nobody writes", self.refusal(path))

        def stop(_share: float) -> None:
            raise Cancelled

        with self.assertRaises(Cancelled):
            read_capture(path, stop)
        self.assertLessEqual(threading.active_count(), threads)

    def test_standard_input(self) -> None:
        """A pipe that is open already, whose writer has gone."""
        ours, theirs = os.pipe()
        os.write(theirs, (CAPTURES / "csv_edges_dht22.csv").read_bytes()[:60_000])
        os.close(theirs)
        self.addCleanup(os.close, ours)
        self.assertGreater(read_capture(Path(f"/dev/fd/{ours}")).edge_count, 100)

    def test_no_rights(self) -> None:
        """A forbidden file, seen by somebody who is not root."""
        path = self.folder / "a.vcd"
        path.write_bytes(b"$x")
        denied = PermissionError(errno.EACCES, "Permission denied")
        with mock.patch.object(os, "open", side_effect=denied):
            self.assertIn("may not be read", self.refusal(path))

    def test_told_by_content(self) -> None:
        """A name with another ending is told by its content."""
        for source, name in (("av_dht22.vcd", "a.dump"), ("csv_edges_dht22.csv", "b.log")):
            path = self.folder / name
            path.write_bytes((CAPTURES / source).read_bytes())
            self.assertGreater(read_capture(path).edge_count, 100)

    def test_progress(self) -> None:
        """Every reader and writer tells shares of the whole that grow, over and over."""
        edges = 1_000 * np.arange(1, 2_001, dtype=np.int64)
        trace = Trace((Line("a", Level.HIGH, edges), Line("b", Level.LOW, edges + 1)), 0, 10**7, 1)
        small = ExitStack()
        self.addCleanup(small.close)
        for module in (vcd_write, edge_csv):
            small.enter_context(mock.patch.object(module, "WRITTEN_AT_ONCE", 256))
        small.enter_context(mock.patch.multiple(vcd_body, SLAB=2_000, LONGEST_WORD=140))
        small.enter_context(mock.patch.object(csv_rows, "SLAB", 2_000))
        small.enter_context(mock.patch.object(incoming, "AT_ONCE", 5_000))
        for name in ("a.vcd", "a.csv"):
            written: list[float] = []
            read: list[float] = []
            write_capture(trace, self.folder / name, written.append)
            again = read_capture(self.folder / name, read.append)
            self.assertEqual(trace.edge_count, again.edge_count)
            for told in (written, read):
                self.assertEqual(sorted(told), told, name)
                self.assertGreater(len(set(told)), 8, name)
                self.assertTrue(0 <= told[0] < 0.2 and 0.8 < told[-1] <= 1, (name, told))

    def test_cancel(self) -> None:
        """Reading stops when progress says so."""

        def stop(_share: float) -> None:
            raise Cancelled

        with self.assertRaises(Cancelled):
            read_capture(CAPTURES / "av_dht22.vcd", stop)


class Writing(PivetTest):
    """What stood there stays when writing fails."""

    def setUp(self) -> None:
        super().setUp()
        self.trace = read_capture(CAPTURES / "av_dht22.vcd")

    def test_full_disk(self) -> None:
        """A really full disk: the old file stays, nothing is left beside it."""
        target = self.folder / "out.csv"
        target.write_text("precious", encoding="utf-8")
        full = mock.patch.object(os, "fsync", side_effect=OSError(errno.ENOSPC, "full"))
        with full, self.assertRaises(OutputError) as caught:
            write_capture(self.trace, target)
        self.assertIn("the disk is full", str(caught.exception))
        self.assertEqual("precious", target.read_text(encoding="utf-8"))
        self.assertEqual([target], list(self.folder.iterdir()))

    def test_size_limit_of_the_system(self) -> None:
        """The system itself stops the writing; the old file stays."""
        target = self.folder / "out.vcd"
        target.write_text("precious", encoding="utf-8")
        code = (
            "import resource, signal, sys\n"
            "from pathlib import Path\n"
            "from pivet.errors import OutputError\n"
            "from pivet.files.captures import read_capture, write_capture\n"
            "trace = read_capture(Path(sys.argv[1]))\n"
            "signal.signal(signal.SIGXFSZ, signal.SIG_IGN)\n"
            "resource.setrlimit(resource.RLIMIT_FSIZE, (1000, 1000))\n"
            "try:\n"
            "    write_capture(trace, Path(sys.argv[2]))\n"
            "except OutputError as error:\n"
            "    print(error)\n"
        )
        source = str(CAPTURES / "av_dht22.vcd")
        done = subprocess.run(
            [sys.executable, "-c", code, source, str(target)],
            capture_output=True,
            text=True,
            check=True,
        )
        self.assertIn("was not written", done.stdout)
        self.assertEqual("precious", target.read_text(encoding="utf-8"))
        self.assertEqual([target], list(self.folder.iterdir()))

    def test_no_such_folder_and_no_such_format(self) -> None:
        """Places and endings that cannot be."""
        for name, part in (("no/out.vcd", "the folder is not there"), ("out.xyz", "names no")):
            with self.assertRaises(OutputError) as caught:
                write_capture(self.trace, self.folder / name)
            self.assertIn(part, str(caught.exception))

    def test_mode_of_the_file(self) -> None:
        """The file gets the usual rights, not those of a temporary one."""
        target = self.folder / "out.csv"
        write_capture(self.trace, target)
        mask = os.umask(0)
        os.umask(mask)
        self.assertEqual(0o666 & ~mask, target.stat().st_mode & 0o777)

    def test_cancel_leaves_nothing(self) -> None:
        """A cancelled export leaves no file."""

        def stop(_share: float) -> None:
            raise Cancelled

        with self.assertRaises(Cancelled):
            write_capture(self.trace, self.folder / "out.vcd", stop)
        self.assertEqual([], list(self.folder.iterdir()))


class Names(PivetTest):
    """Umask is read without changing it."""

    def test_umask_stays(self) -> None:
        """Whatever it is."""
        before = os.umask(0o027)
        self.addCleanup(os.umask, before)
        self.assertEqual([0o027, 0o027], [disk._umask(), disk._umask()])

    def test_folders(self) -> None:
        """Those above it are made, too; one that is there is left; a file is in the way."""
        folder = self.folder / "a" / "b"
        for _ in range(2):
            disk.make_folder(folder)
            (folder / "x").touch()
        with self.assertRaisesRegex(OutputError, "x was not written"):
            disk.make_folder(folder / "x")

    def test_half_a_line(self) -> None:
        """A log whose disk takes a part of what is appended is as it was before."""
        path = self.folder / "log.csv"
        path.write_bytes(b"time,x\n")
        with path.open("ab", buffering=0) as stream:
            half = mock.Mock(fileno=stream.fileno)
            half.write.side_effect = lambda data: stream.write(data[:3])
            readings_log._append(half, b"1,2\n3,4\n")
            half.write.side_effect = lambda data: stream.write(data[:3]) and broken()
            with self.assertRaises(OSError):
                readings_log._append(half, b"5,6\n")
        self.assertEqual(b"time,x\n1,2\n3,4\n", path.read_bytes())


def broken() -> int:
    """The disk is full."""
    raise OSError(errno.ENOSPC, "No space left on device")
