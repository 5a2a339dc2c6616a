"""Hostile and damaged bench files."""

import sqlite3
import zlib
from pathlib import Path
from typing import Any

import numpy as np

from pivet.errors import PivetError
from pivet.files.benchfile.beside import remove_bench
from pivet.files.benchfile.rescue import rescue
from pivet.files.benchfile.store import BenchFile
from pivet.history.attention import states
from pivet.history.recorded import KeptHistory
from pivet.history.reliability import reliabilities
from pivet.history.series import all_series
from pivet.keeping.kept import KeptCapture, kept_captures
from pivet.keeping.recorded import recorded_wires
from pivet.person.annotations import read_annotations, read_crossings
from pivet.person.stored import read_looked, read_roles
from pivet.progress import silent
from tests.fuzz.base import HOSTILE_NUMBERS, HOSTILE_TEXTS, Fuzzer
from tests.fuzz.samples import sample_bench

BOMB = zlib.compress(bytes(1 << 27))
DEEP = "[" * 20_000 + "]" * 20_000
SCHEMAS = (
    "CREATE VIEW v AS SELECT 1",
    "DROP TABLE reading; CREATE VIEW reading AS WITH RECURSIVE r(track, number, value) AS "
    "(SELECT 1, 0, 0.0 UNION ALL SELECT 1, number + 1, 1.0 FROM r) SELECT * FROM r",
    "CREATE TRIGGER t AFTER INSERT ON note BEGIN DELETE FROM exchange; END",
    "DROP TABLE wire",
    "ALTER TABLE exchange ADD COLUMN more TEXT",
    "ALTER TABLE exchange DROP COLUMN margin",
    "CREATE TABLE somebody_elses (x)",
    "CREATE INDEX odd ON exchange (abs(number))",
    "DROP INDEX block_by_time",
    "DROP TABLE capture; CREATE TABLE capture (id, name, source, began_ns, resolution_ns)",
    "PRAGMA user_version = 0",
    "PRAGMA user_version = -7",
    "PRAGMA user_version = 99",
    "PRAGMA user_version = 1",
    "PRAGMA application_id = 5",
)


class HostileBench(Fuzzer):
    """A recorded bench file, changed by whoever knows its tables, or by chance."""

    name = "bench file"
    few = 6

    def __init__(self, folder: Path) -> None:
        super().__init__(folder)
        self._good = sample_bench(folder)
        self.path = folder / "case.pivet"

    def case(self, rng: np.random.Generator) -> None:
        """Changes it, and does everything with it that can be done."""
        remove_bench(self.path)
        self.path.write_bytes(self._good)
        kind = rng.random()
        if kind < 0.4:
            self._corrupt(rng)
        elif kind < 0.5:
            self._script(str(rng.choice(SCHEMAS)))
        else:
            for _ in range(int(rng.integers(1, 4))):
                self._change(rng)
        self._use(rng)

    def _corrupt(self, rng: np.random.Generator) -> None:
        """Chance: bytes, pages, an end that is missing."""
        data = bytearray(self.path.read_bytes())
        for _ in range(int(rng.choice([1, 4, 60]))):
            at = int(rng.integers(0, len(data)))
            data[at : at + 1 if rng.random() < 0.7 else at + 300] = rng.bytes(1)
        if rng.random() < 0.2:
            data = data[: int(rng.integers(0, len(data)))]
        self.path.write_bytes(data)

    def _script(self, sql: str) -> None:
        connection = sqlite3.connect(self.path)
        try:
            connection.executescript(sql)
        except sqlite3.Error:
            pass
        finally:
            connection.close()

    def _change(self, rng: np.random.Generator) -> None:
        """One value of one row, or of all rows of a table."""
        connection = sqlite3.connect(self.path, isolation_level=None)
        try:
            rows = connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")
            table = str(rng.choice([row[0] for row in rows]))
            columns = [row[1] for row in connection.execute(f"PRAGMA table_info({table})")]
            column, value = str(rng.choice(columns)), self._hostile(rng)
            where = "" if rng.random() < 0.3 else " ORDER BY random() LIMIT 1"
            keys = [row[1] for row in connection.execute(f"PRAGMA table_info({table})") if row[5]]
            key = ", ".join(keys)
            connection.execute(
                f"UPDATE OR IGNORE {table} SET {column} = ? WHERE ({key}) IN "
                f"(SELECT {key} FROM {table}{where})",
                (value,),
            )
        except sqlite3.Error:
            pass
        finally:
            connection.close()

    @staticmethod
    def _hostile(rng: np.random.Generator) -> Any:
        values = (
            *HOSTILE_NUMBERS, *HOSTILE_TEXTS[:-3], None, DEEP, BOMB, b"", b"\xff\xfe",
            '{"every_s": 1e300, "air": {"from": "x", "t_ns": [9e99], "celsius": [[1]]}}',
            '["a", "a"]', "[1]", '{"vessel": {"depth_m": "x"}}', "humidity", "echo",
            "dht11", 0.5, 1e308, -1e999,
            'id = "dht22"\n' + "a." * 3000 + "b = 1",
        )  # fmt: skip
        return values[int(rng.integers(0, len(values)))]

    def _use(self, rng: np.random.Generator) -> None:
        try:
            bench = BenchFile.open(self.path)
        except PivetError as error:
            self.refuse(error)
        else:
            try:
                self._look(bench, rng)
            finally:
                bench.close()
        target = self.folder / "rescued.pivet"
        remove_bench(target)
        try:
            rescue(self.path, target)
        except PivetError as error:
            self.refuse(error)

    def _look(self, bench: BenchFile, rng: np.random.Generator) -> None:
        """Everything that window and command line read; each may be refused by itself."""
        histories: list[Any] = []

        def history() -> None:
            histories.extend(KeptHistory(bench).read())
            series = all_series(histories, read_roles(bench), {}, True)
            states(histories, series, {}, True, reliabilities(histories, True))

        def exchanges() -> None:
            for wire in recorded_wires(bench):
                number = int(rng.integers(0, max(len(wire), 1)))
                part = wire.around(number)
                part.report(number - part.first)

        def shown() -> None:
            for capture in kept_captures(bench):
                assert isinstance(capture.kept, KeptCapture)
                capture.kept.trace(silent)
                for wire in capture.wires:
                    for index in range(0, len(wire), 5):
                        wire.report(index)

        asked = (
            bench.captures, bench.wires, bench.edge_count, bench.notes, bench.settings, history,
            exchanges, shown, lambda: read_annotations(bench), lambda: read_crossings(bench),
            lambda: read_looked(bench),
        )  # fmt: skip
        for work in asked:
            try:
                work()
                self.taken += 1
            except PivetError as error:
                self.refuse(error)
