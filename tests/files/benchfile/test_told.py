"""All that a bench file holds, gives and refuses, line by line: see ``tests.pages``."""

import sqlite3
from collections.abc import Iterator
from pathlib import Path
from unittest import mock

import numpy as np

from pivet.errors import PivetError
from pivet.files.benchfile import beside, columns, feeds, notice_bits, opening
from pivet.files.benchfile.checked import is_row
from pivet.files.benchfile.feeds import Change, FeedRow
from pivet.files.benchfile.given import COLUMNS, given_rows, put_rows, replace_rows
from pivet.files.benchfile.rescue import rescue
from pivet.files.benchfile.rows import Block, ExchangeRow, GapRow
from pivet.files.benchfile.store import BenchFile
from pivet.frozen import replace
from pivet.signal.trace import Level
from tests.base import PivetTest, older_bench
from tests.pages import Page, plain

PAGE = Page(__file__)
SECOND = 10**9
DAY = 1_790_000_000 * SECOND

ERRORS = (
    "NOTADB",
    "INTERRUPT",
    "BUSY",
    "CANTOPEN",
    "FULL",
    "LOCKED",
    "PERM",
    "READONLY",
    "CORRUPT",
)

GIVEN = {
    "mark": [(DAY, "shelf_A", "door open"), (DAY - 5, "", "power cut")],
    "correction": [("shelf_A", "", "humidity", 1.02, -0.4, "[]"), ("b", "x", "t", 1.0, 0.0, "")],
    "bound": [("shelf_A", "", "humidity", 88.0, None, 0.5, 60.0)],
    "crossing": [("shelf_A", "", "humidity", "low", DAY, DAY + 9, 87.5, 86.0, None)],
    "reference": [(1, "glass", "temperature", 0.1), (2, "dial", "humidity", None)],
    "reference_value": [(1, DAY, 11.5), (1, DAY + 5, 11.75), (2, DAY, 90.0)],
}


def exchanges(count: int, step_ns: int) -> Iterator[ExchangeRow]:
    """Every third of them is not sound."""
    for number in range(count):
        bad = number % 3 == 2
        data, margin = (None, None) if bad else (bytes([number, 1, 2]), 100 * number - 50)
        times = (number * step_ns, 5000 + number)
        device = "28-0000051b2c7d" if number % 2 else None
        yield ExchangeRow(number, *times, 2 * bad, number << 3, number % 4, device, data, margin)


def write(bench: BenchFile) -> None:
    """Two captures with all that they can have."""
    night = bench.add_capture("cave", "made up", DAY, 125)
    day = bench.add_capture("day.vcd", "file", DAY - 7 * SECOND, 10)
    shelf = bench.add_wire(night.id, "shelf_A", '["a"]', "humidity-frame", "dht22", "{}")
    wheels = bench.add_wire(night.id, "wheels", '["w"]', "one-wire", None, '{"every_s": 5}')
    vat = bench.add_wire(day.id, "vat", '["t", "e"]', "echo-pulse", None, "{}")
    for at, (level, first) in enumerate(((Level.HIGH, 20), (Level.LOW, 40), (Level.HIGH, 30))):
        times = np.arange(first, first + 5 + 2 * (at == 2), dtype=np.int64) + at * SECOND
        block = Block(at * SECOND, (at + 1) * SECOND, level, times)
        bench.add_block(bench.line(night.id, "a"), block)
    later = Block(6 * SECOND, 7 * SECOND, Level.LOW, np.array([6 * SECOND + 4]))
    bench.add_block(bench.line(night.id, "a"), later)
    bench.add_block(bench.line(day.id, "t"), Block(0, SECOND, Level.LOW, np.array([7, 9])))
    bench.add_gap(bench.line(night.id, "a"), GapRow(3 * SECOND, 4 * SECOND, Level.LOW, 12, "lost"))
    bench.add_gap(bench.line(night.id, "a"), GapRow(0, 5, Level.HIGH, None, ""))
    for at in (5, 0):
        bench.add_clock(night.id, at * SECOND, DAY + at * SECOND + 1000 * at)
    bench.put_exchanges(shelf.id, exchanges(8, SECOND))
    bench.put_exchanges(vat.id, exchanges(4, SECOND // 2))
    bench.put_readings(bench.track(shelf.id, "humidity", "%RH", ""), [(0, 91.5), (1, None), (3, 9)])
    bench.put_readings(bench.track(shelf.id, "temperature", "°C", "x"), [(0, 12.25), (5, 11.5)])
    bench.forget_readings(shelf.id, [5])
    bench.forget_exchanges(shelf.id, [7])
    bench.put_exchanges(shelf.id, [ExchangeRow(6, 6 * SECOND, 1, 1, 64, 1, None, b"again")])
    bench.change_sheet(vat.id, "hc-sr04")
    bench.change_wire(replace(wheels, name="wheel bus", sheet="onewire"))
    bench.add_note(DAY, "somebody opened the door", None, None)
    bench.put_note(DAY + 1, "first", shelf.id, 2)
    bench.put_note(DAY - 1, "second", shelf.id, 2)
    bench.put_note(DAY, "gone", shelf.id, 3)
    bench.put_note(DAY, "", shelf.id, 3)
    bench.put_setting("unit", '"°C"')
    bench.put_roles([("none", "[]")])
    bench.put_roles([("wheel 2", "[]"), ("wheel 1", '["28-0000051b2c7d"]')])
    bench.put_words([(0, "sound"), (2, "unsound")], [("dht22", "humidity-frame", "22-type", "x=1")])
    codes = [("humidity-frame", 8, "slow-rise", 2), ("humidity-frame", 32, "cut-short", 2)]
    notice_bits.renumber(bench, codes)
    notice_bits.renumber(bench, [("humidity-frame", 64, "slow-rise", 2), *codes[1:]])
    for table, rows in GIVEN.items():
        put_rows(bench, table, rows)
    replace_rows(bench, "mark", [(DAY + 2, "vat", "filled"), (DAY, "", "all")])


def held(path: Path) -> Iterator[str]:
    """Every row of every table, as anybody reads it."""
    plainly = sqlite3.connect(path)
    keys = ("application_id", "user_version")
    version = [plainly.execute(f"PRAGMA {key}").fetchone() for key in keys]
    yield f"versions {version}"
    tables = "SELECT name, sql FROM sqlite_master WHERE sql NOT NULL ORDER BY type, name"
    for name, sql in plainly.execute(tables).fetchall():
        yield " ".join(sql.split())
        if "CREATE TABLE" in sql:
            # How edges are packed is for zlib to say.
            width = len(plainly.execute(f"PRAGMA table_info({name})").fetchall()) - (
                name == "block"
            )
            for row in plainly.execute(f"SELECT * FROM {name} ORDER BY 1, 2"):
                yield str(row[:width])
    plainly.close()


def read(bench: BenchFile) -> Iterator[str]:
    """What it gives."""
    for capture in bench.captures():
        yield plain(capture)
        lines = bench.lines(capture.id)
        yield f"lines {lines}, clock {[row.tolist() for row in columns.clock_columns(bench, 1)]}"
        for line in (*lines, "none"):
            yield f"{line}: {plain(bench.gaps(capture.id, line))}"
            for start, end in ((0, 2 * SECOND), (SECOND, SECOND + 1), (SECOND + 5, 9 * SECOND)):
                blocks = bench.blocks(capture.id, line, start, end)
                rows = [
                    (row.start_ns, row.end_ns, row.level, row.edges_ns.tolist()) for row in blocks
                ]
                yield f"  {start} to {end}: {plain(rows)}"
    for wire in bench.wires():
        yield f"{plain(wire)}, {bench.count(wire.id)} exchanges"
        for row in bench.exchanges(wire.id, 1, 4):
            yield f"  {plain(row)}"
        near = [bench.next_not_sound(wire.id, at, step) for at in (2, 4) for step in (1, -1)]
        at = [bench.number_at(wire.id, t_ns) for t_ns in (-1, 0, SECOND - 1, SECOND, 99 * SECOND)]
        yield f"  not sound {near}, at {at}, notes {[bench.note_on(wire.id, n) for n in (2, 3)]}"
        for kept in columns.exchange_columns(bench, wire.id, 1):
            yield f"  {[getattr(kept, key).tolist() for key in kept.__struct_fields__]}"
        for track in columns.tracks_of(bench, wire.id):
            rows = [
                row
                for part in columns.reading_columns(bench, track.id, 1)
                for row in (part.number.tolist(), part.values.tolist())
            ]
            yield f"  {plain(track)} {rows}"
        yield f"  {plain(feeds.sent_exchanges(bench, wire.id, [1, 3, 6]))}"
    yield f"{bench.settings()} {bench.roles()} {bench.notes()} {bench.edge_count()}"
    yield f"{bench.sheet_content('dht22')!r} {bench.sheet_content('x')!r}"
    yield from (f"{table} {given_rows(bench, table)}" for table in COLUMNS)
    bits = notice_bits.moves_of(bench, ("humidity-frame", "x"), {"slow-rise": 4, "new": 32})
    yield f"{bits} {[notice_bits.one_moved(bits, at) for at in (0, 32, 64, 96, 128)]}"


def fed(bench: BenchFile) -> Iterator[str]:
    """Feeds begin, send, fail, rest and go."""

    def now() -> str:
        rows = [
            (
                row.name,
                row.done,
                feeds.waiting(bench, row.name, row.done),
                [(out.seq, out.wire, out.number, out.change.name) for out in found],
            )
            for row in feeds.feed_rows(bench)
            for found in (
                feeds.outgoing_rows(bench, row.name, row.done, 3),
                feeds.newest_rows(bench, row.name, row.done, 1),
            )
        ]
        return f"{plain(feeds.feed_rows(bench))} {plain(rows)} {feeds.last_outgoing(bench)}"

    yield now()
    with bench.writing():
        for name in ("broker", "shop"):
            feeds.put_feed(bench, FeedRow(name, '{"kind": "mqtt"}'))
        feeds.add_outgoing(bench, [(1, n, Change(n % 3)) for n in range(5)])
        feeds.add_all_held(bench, "shop")
    yield now()
    with bench.writing():
        feeds.note_try(bench, "broker", DAY)
        feeds.note_progress(bench, "broker", 3, 2, DAY + 1, "")
        feeds.note_progress(bench, "shop", 2, 1, 0, "nobody answers")
        feeds.pause_feed(bench, "shop", True)
        feeds.tidy_outgoing(bench)
    yield now()
    with bench.writing():
        feeds.note_progress(bench, "broker", 1, 1, DAY, "late")
        feeds.forget_feed(bench, "shop")
    yield now()
    with bench.writing():
        feeds.note_progress(bench, "broker", 99, 1, DAY, "")
        feeds.tidy_outgoing(bench)
    yield now()
    yield plain(feeds.last_rows(bench, 2))
    with mock.patch.object(feeds, "COUNTED", 2):
        yield f"{[feeds.waiting(bench, 'broker', done) for done in (0, 10)]}"


def refused(folder: Path) -> Iterator[str]:
    """Sentences for what cannot be read or written, and where a lost file goes on."""
    path = folder / "night.pivet"
    (folder / "was.pivet").write_bytes(b"SQLite form?? 3\0")
    for error in (sqlite3.ProgrammingError("closed"), *map(sqlite3.OperationalError, ERRORS)):
        error.sqlite_errorcode = getattr(sqlite3, f"SQLITE_{error}", 0) | 1 << 8
        for sentence in (opening.read_error, opening.write_error):
            yield f"{sentence(path, error)}"
    yield f"{opening.read_error(folder / 'was.pivet', sqlite3_error('NOTADB'))}"
    for room in (opening.ROOM - 1, opening.ROOM):
        disk = mock.Mock(f_bavail=room, f_frsize=1)
        with mock.patch("os.statvfs", return_value=disk):
            yield f"{room} bytes: {opening.write_error(path, sqlite3.OperationalError('x'))}"
    for _ in range(3):
        found = beside.next_beside(path)
        yield f"{found.name}; {beside.gone_advice(path)}"
        found.write_bytes(b"")
    yield f"{[found.name for found in beside.continuations(path)]}"
    yield f"{[beside.is_bench(folder / name) for name in ('a.pivet', 'night.pivet', 'sub', '')]}"
    for row in ((1, "a", "b", 5, 1), (1, "a", "b", 5), (0, "a", "b", 5, 1), (1, "a", 2, 5, 1)):
        yield f"{row} {is_row('capture', row)}"


def sqlite3_error(name: str) -> sqlite3.Error:
    """As SQLite raises it."""
    error = sqlite3.DatabaseError(name)
    error.sqlite_errorcode = getattr(sqlite3, f"SQLITE_{name}")
    return error


def rescued(folder: Path) -> Iterator[str]:
    """What is saved of older files, and of one whose tables are gone or hold what cannot be."""
    for version in (1, 2, 4):
        path = older_bench(version, folder)
        yield f"{rescue(path, folder / f'saved{version}.pivet')}"
    far = older_bench(5, folder)
    broken = sqlite3.connect(far)
    for sql in (
        "UPDATE wire SET id = id + 100",
        "UPDATE exchange SET wire = wire + 100",
        "UPDATE track SET id = id + 100, wire = wire + 100",
        "UPDATE reading SET track = track + 100",
        "DELETE FROM setting",
    ):
        broken.execute(sql)
    broken.commit()
    broken.close()
    yield f"{rescue(far, folder / 'saved5.pivet')}"
    broken = sqlite3.connect(path)
    for sql in (
        "DROP TABLE note",
        "ALTER TABLE wire RENAME TO wires",
        "CREATE VIEW wire AS SELECT * FROM wires",
        "UPDATE exchange SET verdict = 'much' WHERE number = 1",
        "UPDATE reading SET number = -4 WHERE number = 2",
    ):
        broken.execute(sql)
    broken.commit()
    broken.close()
    yield f"{rescue(path, folder / 'saved.pivet')}"
    for damaged, target in (
        (path, path),
        (folder / "none", path),
        (folder / "was.pivet", folder / "x"),
    ):
        try:
            yield f"{rescue(damaged, target)}"
        except PivetError as error:
            yield f"{error}"


class Told(PivetTest):
    """Against the page that was last looked through."""

    def lines(self) -> Iterator[str]:
        """The page."""
        path = self.folder / "night.pivet"
        bench = BenchFile.create(path)
        self.addCleanup(bench.close)
        with bench.writing():
            write(bench)
        yield from read(bench)
        yield "# fed"
        yield from fed(bench)
        yield "# tidied"
        with bench.writing():
            line = bench.line(1, "a")
            for end, most in ((1, 100), (3, 12), (9, 40)):
                yield f"{bench.tidy_blocks(line, end * SECOND, most)}"
        bench.save_as(self.folder / "copy.pivet")
        try:
            bench.save_as(self.folder / "copy.pivet")
        except PivetError as error:
            yield f"{error}"
        yield from (f"{row.edges_ns.tolist()}" for row in bench.blocks(1, "a", 0, 9 * SECOND))
        yield from held(self.folder / "copy.pivet")
        yield "# refused"
        yield from refused(self.folder)
        yield "# rescued"
        yield from rescued(self.folder)

    def test_line_by_line(self) -> None:
        PAGE.same(self, [row.replace(str(self.folder), "HERE") for row in self.lines()])
