"""One rule for names that people write."""

import unittest

from pivet.signal.naming import meant, pair_meant, shared_name, wire_meant

LINES = ("cave.a", "cave.vat.trigger", "cave.vat.echo", "cave.b.a", "top.trig", "top.echo", "x")


class Names(unittest.TestCase):
    """What is meant."""

    def test_lines(self) -> None:
        """Exact before last parts, last parts before longer forms."""
        for written, names in {
            "cave.a": ["cave.a"],
            "a": ["cave.a", "cave.b.a"],
            "b.a": ["cave.b.a"],
            "sim.top.trig": ["top.trig"],
            "any.x": ["x"],
            "ave.a": [],
            "": [],
        }.items():
            self.assertEqual(names, meant(written, LINES), written)
        self.assertEqual(["a"], meant("a", ["b.a", "a"]))

    def test_pairs(self) -> None:
        """By what both share, or by both last parts; the echo is the second one."""
        vat, top = ("cave.vat.trigger", "cave.vat.echo"), ("top.trig", "top.echo")
        for written, names in {
            "vat": vat,
            "cave.vat": vat,
            "top": top,
            "top.trig+echo": top,
            "trig+top.echo": (),
            "cave": (),
            "nothing": (),
            "x+x": (),
        }.items():
            self.assertEqual(names, pair_meant(written, LINES), written)
        self.assertEqual(("s.t", "s.echo"), pair_meant("s", ["s.echo", "s.t"]))

    def test_wires(self) -> None:
        """Shown names, or the lines of a wire."""
        wires = ["brine_vat", "logic.TRIG+ECHO", "shelf"]
        for written, name in {
            "cave.shelf": "shelf",
            "brine_vat.trigger,brine_vat.echo": "brine_vat",
            "cave.brine_vat.trigger, cave.brine_vat.echo": "brine_vat",
            "TRIG,ECHO": "logic.TRIG+ECHO",
            "logic.TRIG,logic.ECHO": "logic.TRIG+ECHO",
            "TRIG+ECHO": "logic.TRIG+ECHO",
        }.items():
            self.assertEqual([name], wire_meant(written, wires), written)
        self.assertEqual([], wire_meant("shelf.a,vat.b", wires))

    def test_shared(self) -> None:
        """One keeps its name, several are called by what they share."""
        self.assertEqual("a.b", shared_name(["a.b"]))
        self.assertEqual("cave.vat", shared_name(["cave.vat.trigger", "cave.vat.echo"]))
        self.assertEqual("top.trig+echo", shared_name(["top.trig", "top.echo"]))
        self.assertEqual("t+e", shared_name(["t", "e"]))
