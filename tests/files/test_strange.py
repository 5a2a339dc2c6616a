"""What strangers send, reader by reader: the limits themselves; fuzzers look for more."""

import itertools
import sqlite3
import tracemalloc
import unittest
import zlib
from pathlib import Path
from unittest import mock

import numpy as np

from pivet.errors import InputError, OutputError, clipped
from pivet.files.benchfile import checked, edges, schema
from pivet.files.benchfile.opening import MOST_S
from pivet.files.benchfile.rescue import rescue
from pivet.files.benchfile.store import BenchFile
from pivet.files.spreadsheet import harmless, harmless_row, without_mark
from pivet.files.targets import Kind, is_same, refuse_target
from pivet.files.vcd import MOST_QUIET, parse_vcd
from pivet.files.vcd_header import MOST_NAME, MOST_SCOPES, read_header
from pivet.signal import varint
from tests.base import PivetTest

BODY = "$enddefinitions $end\n#0\n1!\n#5\n0!\n#9\n1!\n"


def head(*declarations: str) -> bytes:
    """A small VCD file with some declarations."""
    return ("$timescale 1 ns $end\n" + "\n".join(declarations) + "\n" + BODY).encode()


class Heads(PivetTest):
    """Declarations of VCD files."""

    def test_depth(self) -> None:
        """So deep and no deeper; what was left again does not count."""
        down, up = "$scope module a $end", "$upscope $end"
        most = [down] * MOST_SCOPES
        name = "$var wire 1 ! x $end"
        found = parse_vcd(head(*most, name), "a.vcd")
        self.assertEqual(MOST_SCOPES, found.lines[0].name.count("."))
        with self.assertRaisesRegex(InputError, f"deeper than {MOST_SCOPES}"):
            parse_vcd(head(*most, down, name), "a.vcd")
        parse_vcd(head(*[down, up] * (2 * MOST_SCOPES), name), "a.vcd")

    def test_names(self) -> None:
        """So long and no longer, scopes counted."""
        parse_vcd(head(f"$var wire 1 ! {'x' * MOST_NAME} $end"), "a.vcd")
        with self.assertRaisesRegex(InputError, "name of over"):
            parse_vcd(head(f"$var wire 1 ! {'x' * (MOST_NAME + 1)} $end"), "a.vcd")
        with self.assertRaisesRegex(InputError, "name of over"):
            scope = f"$scope module {'s' * MOST_NAME} $end"
            parse_vcd(head(scope, "$var wire 1 ! x $end"), "a.vcd")

    def test_memory(self) -> None:
        """Under 60 bytes a byte of the head, however many signals."""
        content = head(*(f"$var wire 1 c{number} s{number} $end" for number in range(15_000)))
        tracemalloc.start()
        header = read_header(content, "a.vcd")
        most = tracemalloc.get_traced_memory()[1]
        tracemalloc.stop()
        self.assertEqual(15_000, len(header.signals))
        self.assertLess(most, 60 * len(content))

    def test_many_that_never_change(self) -> None:
        """They are left out, with a note; those that change stay, also at the beginning."""
        rows = [f"$var wire 1 c{number} s{number} $end" for number in range(MOST_QUIET + 1)]
        content = head("$var wire 1 ! x $end", *rows)
        content += b"1c3\n0c4\n#12\n1c3\n1c4\n#13\n0c5\n"
        found = parse_vcd(content, "a.vcd")
        self.assertEqual(["x", "s4", "s5"], [line.name for line in found.lines])
        self.assertIn(f"{MOST_QUIET - 1} signals that never change", " ".join(found.notes))
        few = parse_vcd(head("$var wire 1 ! x $end", "$var wire 1 c y $end"), "a.vcd")
        self.assertEqual(["x", "y"], [line.name for line in few.lines])


class Cells(unittest.TestCase):
    """Text that a spreadsheet would run."""

    def test_cells(self) -> None:
        """Numbers stay numbers, other text stays text."""
        for text in ("=1+1", "+cmd", "-x", "@SUM(A1)", "\tx", "\r=1", "-1+2", "-1.", "=", "-"):
            self.assertEqual(f"'{text}", harmless(text))
            self.assertEqual(text, without_mark(f"'{text}"))
        for cell in ("-12.5", "+3", "a=b", "", "'tis", "x", 5, -2.5, None):
            self.assertEqual(cell, harmless(cell))
        for text in ("'tis", "'", "", "=1", "x'=1"):
            self.assertEqual(text, without_mark(text))
        self.assertEqual([1, "'=a", "b"], harmless_row([1, "=a", "b"]))


class Targets(PivetTest):
    """Files that are to be written."""

    def test_what_is_there(self) -> None:
        """Only our own of the same kind, or nothing, or by force."""
        path = self.folder / "a"
        ours = {
            Kind.CAPTURE: (b"$comment pivet resolution_ns 5 $end\n", b"time_s,data\n0.0,1\n"),
            Kind.READINGS: (
                b"time,wire,role,device,exchange,x\n",
                b"time_s,wire,role,device,exchange,quantity\n",
                b'{"time": "2026", "wire": "a"}\n',
                b'{"exchange": 0, "wire": "a"}\n',
                b"PK\3\4 xl/worksheets/sheet1.xml",
            ),
            Kind.REPORT: (
                b'<!doctype html><meta name="generator" content="Pivet 1">',
                b"%PDF-1.4 (Pivet)",
            ),
        }
        refuse_target(path, Kind.CAPTURE)
        for kind, heads in ours.items():
            for begin in (*heads, b""):
                path.write_bytes(begin)
                refuse_target(path, kind)
                with self.assertRaisesRegex(OutputError, "--force"):
                    refuse_target(path, None)
                refuse_target(path, None, force=True)
            for begin in (
                *(b"mine", b"$date today $end", b"time,value\n", b"{}", b"xtime_s,"),
                *(b"PK\3\4 word/document.xml", b"xl/worksheets/sheet1.xml"),
                *(b"<!doctype html>", b"%PDF-1.4", b"Pivet"),
            ):
                path.write_bytes(begin)
                with self.assertRaisesRegex(OutputError, f"not {kind.value} that Pivet wrote"):
                    refuse_target(path, kind)

    def test_inputs(self) -> None:
        """Never, whatever the link and the force."""
        path, link = self.folder / "a.csv", self.folder / "b.csv"
        path.write_bytes(b"time_s,x\n")
        link.symlink_to(path)
        for target in (path, link, self.folder / "." / "a.csv"):
            with self.assertRaisesRegex(OutputError, "very file"):
                refuse_target(target, Kind.CAPTURE, (path,), force=True)
        self.assertFalse(is_same(path, self.folder / "none"))
        self.assertFalse(is_same(path, Path("a\0b")))


class Tables(PivetTest):
    """Tables and rows of bench files."""

    def setUp(self) -> None:
        super().setUp()
        self.path = self.folder / "a.pivet"
        bench = BenchFile.create(self.path)
        with bench.writing():
            capture = bench.add_capture("cave", "made up", 10**18, 125)
            bench.add_wire(capture.id, "w", '["a"]', "humidity-frame", "dht22", "{}")
            bench.put_setting("a", "1")
        bench.close()

    def script(self, sql: str) -> None:
        """Somebody else's hand in the file."""
        connection = sqlite3.connect(self.path)
        connection.executescript(sql)
        connection.close()

    def test_every_version(self) -> None:
        """Tables made now are those of the newest version, of older ones those of then."""
        for version in range(1, schema.VERSION + 1):
            connection = sqlite3.connect(":memory:")
            schema.make_version(connection, version)
            checked.check_tables(self.path, connection, version)
            for step in range(version, schema.VERSION):
                schema.MIGRATIONS[step](connection)
            checked.check_tables(self.path, connection, schema.VERSION)
            if version < schema.SINCE["correction"]:
                with self.assertRaises(InputError):
                    checked.check_tables(self.path, connection, version)
            connection.close()
        tables = {name for name, _ in checked._tables(schema.VERSION)}
        self.assertEqual(tables, set(checked.TABLES))
        for name, columns in checked._tables(schema.VERSION):
            self.assertEqual(len(columns), len(checked.TABLES[name]), name)

    def test_not_ours(self) -> None:
        """What Pivet never makes: views, triggers, other columns, versions that were never."""
        for sql, says in (
            ("CREATE VIEW v AS SELECT 1", "has a view 'v'"),
            ("CREATE TRIGGER t AFTER INSERT ON note BEGIN DELETE FROM note; END", "has a trigger"),
            ("ALTER TABLE note ADD COLUMN x AS (1)", "table note has other columns"),
            ("DROP TABLE note; CREATE TABLE note (text BLOB)", "table note has other columns"),
            ("DROP TABLE track", "table track is missing"),
            *((f"PRAGMA user_version = {at}", f"file version {at}") for at in (0, -1, -(2**31))),
            (f"PRAGMA user_version = {schema.VERSION + 1}", "newer Pivet"),
        ):
            self.setUp()
            self.script(sql)
            with self.assertRaisesRegex(InputError, says):
                BenchFile.open(self.path)
            self.path.unlink()

    def test_beginning(self) -> None:
        """One of which half of the first bytes are left was one; of which less are, was none."""
        whole = self.path.read_bytes()
        for kept, says in ((8, "its first bytes are not"), (7, "is no bench file")):
            self.path.write_bytes(whole[:kept] + b"\xff" * (16 - kept) + whole[16:])
            with self.assertRaisesRegex(InputError, says):
                BenchFile.open(self.path)

    def test_own_tables_beside(self) -> None:
        """Somebody's own table and index are passed over."""
        self.script("CREATE TABLE mine (x); CREATE INDEX i ON exchange (verdict)")
        BenchFile.open(self.path).close()

    def test_values(self) -> None:
        """Of another type, beyond all, missing: damaged, and rescued without them."""
        for column, value in (
            ("resolution_ns", "0"),
            ("resolution_ns", "'x'"),
            ("began_ns", str(2**62)),
            ("began_ns", "1.5"),
            ("name", "x'00'"),
            ("source", f"'{'x' * 2001}'"),
        ):
            self.setUp()
            self.script(f"UPDATE capture SET {column} = {value}")
            bench = BenchFile.open(self.path)
            with self.assertRaisesRegex(InputError, "is damaged.*rescue", msg=(column, value)):
                bench.captures()
            bench.close()
            target = self.folder / "rescued.pivet"
            target.unlink(missing_ok=True)
            with self.assertRaisesRegex(InputError, "nothing of"):
                rescue(self.path, target)
            self.path.unlink()

    def test_rows(self) -> None:
        """With all columns or those of an older version."""
        good = (1, 5, 10, 20, 3, 0, 1, None, b"x", 4)
        for row in (good, good[:-1]):
            self.assertTrue(checked.is_row("exchange", row))
        for at, value in (
            (0, -1),
            (1, None),
            (3, -5),
            (4, 4),
            (5, 2**62),
            (7, 5),
            (8, "x"),
            (9, 0.5),
        ):
            bad = [*good]
            bad[at] = value  # type: ignore[assignment]
            self.assertFalse(checked.is_row("exchange", tuple(bad)), at)
        self.assertFalse(checked.is_row("note", (1, 2, None, None, "x" * 1_000_001)))

    def test_text(self) -> None:
        """JSON of a kind, or nothing."""
        self.assertEqual(["a"], checked.decoded('["a"]', list[str]))
        for text in ("", "[1]", "[" * 10**5, '["a"] x', "\udcff"):
            self.assertIsNone(checked.decoded(text, list[str]))

    def test_blocks(self) -> None:
        """A bomb, an end that is missing, times beyond all."""
        times = np.array([1005, 1010, 2000], dtype=np.int64)
        data = edges.packed(times, 1000)
        np.testing.assert_array_equal(times, edges.unpacked(data, 1000))
        self.assertIsNone(edges.unpacked(data[:-2], 1000))
        most = b"\1" * (16 << 20)
        self.assertIsNotNone(edges.unpacked(zlib.compress(most), 0))
        self.assertIsNone(edges.unpacked(zlib.compress(most + b"\1"), 0))
        self.assertIsNone(edges.unpacked(zlib.compress(varint.packed((5, 0))), 0))
        beyond = varint.packed((edges.MOST_NS // 2,) * 3)
        self.assertIsNone(edges.unpacked(zlib.compress(beyond), 0))
        self.assertIsNotNone(edges.unpacked(zlib.compress(varint.packed((edges.MOST_NS,))), 0))

    def test_questions_take_no_longer(self) -> None:
        """A question that would not end is ended."""
        bench = BenchFile.open(self.path)
        self.addCleanup(bench.close)
        later = itertools.chain((0.0,), itertools.repeat(MOST_S + 0.1))
        clock = mock.patch("pivet.files.benchfile.reading.time.monotonic", lambda: next(later))
        endless = (
            "WITH RECURSIVE r(x) AS (SELECT 1 UNION ALL SELECT x FROM r) SELECT count(*) FROM r"
        )
        with clock, self.assertRaisesRegex(InputError, "takes over"):
            bench.rows(endless)


class Others(PivetTest):
    """Logs of references, files of roles, sentences."""

    def test_long_sentences(self) -> None:
        """A name as long as a file does not fill the screen."""
        self.assertEqual("x" * 400, clipped("x" * 400))
        text = clipped("a" * 500 + "b" * 500)
        self.assertEqual(403, len(text))
        self.assertTrue(text.startswith("a" * 200) and text.endswith("b" * 200))
        self.assertLess(len(str(InputError("x" * 10**6, "y" * 10**6))), 1000)
