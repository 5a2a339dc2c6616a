"""A long capture as a table: every exchange that is not sound stands in it, once."""

import re

from pivet.captures.capture import open_capture
from pivet.captures.causes import LONG, causes_of, is_long, long_lines, table_lines
from pivet.captures.text import exchange_lines
from pivet.captures.wire import NO_NAMES
from pivet.judge.verdict import Verdict
from tests.base import CAPTURES, PivetTest
from tests.cli.running import pivet
from tests.night import demo_night


class Causes(PivetTest):
    """Of the demo night."""

    def test_each_once(self) -> None:
        """All that is not sound, under its verdict; the gravest first, then the commonest."""
        for wire in demo_night().wires:
            causes = causes_of(wire)
            at = [(row, cause.verdict) for cause in causes for row in cause.at]
            wanted = [
                (row, Verdict(int(verdict)))
                for row, verdict in enumerate(wire.verdicts)
                if verdict != Verdict.SOUND
            ]
            self.assertEqual(wanted, sorted(at))
            order = [(-cause.verdict, -len(cause.at)) for cause in causes]
            self.assertEqual(sorted(order), order)
            for cause in causes:
                self.assertEqual(sorted(cause.at), list(cause.at))
                self.assertTrue(cause.words)

    def test_what_is_long(self) -> None:
        """One exchange more than one wants to read; a hundred are told one by one."""
        self.assertEqual(100, LONG)
        for number in (LONG - 1, LONG, LONG + 1):
            path = self.folder / f"{number}.vcd"
            pivet("standin", path, "--sensor", "hc-sr04", "--count", number, "-q")
            self.assertEqual(number > LONG, is_long(open_capture(path)), number)

    def test_words_are_those_of_the_first_finding(self) -> None:
        """What the table calls it is what the exchange is called for."""
        wire = demo_night().wires[0]
        words = {row: cause.words for cause in causes_of(wire) for row in cause.at}
        self.assertEqual("the sum is wrong", words[158])
        self.assertEqual("no answer", words[262])
        self.assertEqual("pulse near", words[112])

    def test_table(self) -> None:
        """Short: a line a cause, with the first exchanges of each."""
        lines = list(table_lines(demo_night()))
        self.assertLess(len(lines), 45)
        self.assertLessEqual(max(map(len, lines)), 110)
        text = "\n".join(lines)
        self.assertRegex(text, r"✗ +12 ×  no answer +exchanges 262, 263, 264, 265 …")
        self.assertRegex(text, r"✗ +1 ×  the sum is wrong +exchange 158\n")

    def test_long(self) -> None:
        """Then each exchange that is not sound, as it is told alone; the others are not."""
        capture = demo_night()
        self.assertTrue(is_long(capture))
        text = "\n".join(long_lines(capture, NO_NAMES))
        numbers = [int(row) for row in re.findall(r"^  [●▲○✗] +(\d+)  +\d+:", text, re.M)]
        wanted = [row for wire in capture.wires for row in wire.verdicts.nonzero()[0].tolist()]
        self.assertEqual(wanted, numbers)
        row = next(exchange_lines(capture.wires[0].report(158)))
        self.assertTrue(row in text.splitlines())
        self.assertFalse(is_long(open_capture(CAPTURES / "av_dht22.vcd")))

    def test_command(self) -> None:
        """A long night is told so; every exchange of it when one asks."""
        path = self.folder / "long.vcd"
        words = ("--sensor", "dht22", "--count", str(LONG + 1), "--fault", "sum-wrong@7")
        self.assertEqual(0, pivet("standin", path, *words).exit_code)
        short, whole = pivet("decode", path), pivet("decode", path, "--all")
        self.assertIn("--all tells every exchange.", short.stdout)
        self.assertLess(len(short.stdout.splitlines()), 14)
        self.assertIn("the sum is wrong", short.stdout)
        self.assertGreater(len(whole.stdout.splitlines()), LONG)
        self.assertNotIn("--all", whole.stdout)
