"""Notices by bit: how those of a file become those of today."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from pivet.files.benchfile.notice_bits import moved, moves_of, renumber
from pivet.files.benchfile.store import BenchFile
from tests.base import PivetTest

HERE = {"first": 1, "second": 2, "third": 1 << 5}


class Moves(PivetTest):
    """How the bits of a file become those of today."""

    def setUp(self) -> None:
        super().setUp()
        self.bench = BenchFile.create(self.folder / "a.pivet")
        self.addCleanup(self.bench.close)

    def moves(self, *rows: tuple[str, int, str]) -> dict[int, int]:
        """What becomes of each bit that a table names."""
        with self.bench.writing():
            self.bench.run("DELETE FROM code", [()])
            self.bench.run("INSERT INTO code VALUES (?, ?, ?, 0)", rows)
        return dict(moves_of(self.bench, ("now", "before"), HERE))

    def test_elsewhere(self) -> None:
        """A bit goes where its code is here, also under a former name of the family."""
        self.assertEqual({8: 1, 16: 2}, self.moves(("now", 8, "first"), ("before", 16, "second")))
        self.assertEqual({}, self.moves(("other", 8, "first")))

    def test_unknown(self) -> None:
        """Stays where it hurts nobody, and goes where its bit means something else here."""
        self.assertEqual({}, self.moves(("now", 1 << 61, "nobody-knows")))
        self.assertEqual({2: 0}, self.moves(("now", 2, "nobody-knows")))

    @given(st.permutations(range(8)), st.lists(st.integers(0, 255), max_size=20))
    def test_any_order(self, order: list[int], rows: list[int]) -> None:
        """Bits that were shuffled come back, each alone and all together; others stay."""
        moves = {1 << there: 1 << here for here, there in enumerate(order)}
        there = [sum(1 << order[bit] for bit in range(8) if row >> bit & 1) for row in rows]
        found = moved(np.array(there, dtype=np.int64) + 1024, moves)
        self.assertEqual(rows, (found - 1024).tolist())

    def test_renumbered(self) -> None:
        """Exchanges of that family's wires, and the table; what is unknown keeps its row."""
        names = ("now", "other")
        with self.bench.writing():
            capture = self.bench.add_capture("c", "c", 0, 10)
            for name in names:
                wire = self.bench.add_wire(capture.id, name, "[]", name, None, "{}")
                self.bench.run(
                    "INSERT INTO exchange VALUES (?, 0, 0, 1, 0, ?, 1, NULL, NULL, NULL)",
                    [(wire.id, 8 | 1 << 61)],
                )
        self.moves(("now", 8, "first"), ("now", 1 << 61, "nobody-knows"), ("other", 8, "x"))
        with self.bench.writing():
            renumber(self.bench, [("now", bit, code, 0) for code, bit in HERE.items()])
        kind = tuple[str, int]
        sql = "SELECT family, notices FROM exchange JOIN wire ON wire.id = exchange.wire"
        wanted = {"now": 1 | 1 << 61, "other": 8 | 1 << 61}
        self.assertEqual(wanted, dict(self.bench.rows(sql, kind=kind)))
        sql = "SELECT code, bit FROM code WHERE family = 'now'"
        wanted = {**HERE, "nobody-knows": 1 << 61}
        self.assertEqual(wanted, dict(self.bench.rows(sql, kind=kind)))
