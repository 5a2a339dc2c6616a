"""The firmware on a simulated chip: what it tells, beside what its pins did."""

import time

import numpy as np

from pivet.signal.trace import Level
from pivet.sources.link import messages as msg
from tests.firmware.chip import Chip, ChipTest, InVain
from tests.patience import PATIENCE_S

US = 1000
WAIT_NS = 3_000_000
SOON_S = 20.0
SILENT_TICKS = 8_000_000
"""Four seconds of half a microsecond each."""


def widths(count: int, mean_us: float, seed: int) -> np.ndarray:
    """Edges at random, about so far apart, behind a wait; ns."""
    random = np.random.default_rng(seed)
    found = random.integers(int(mean_us * 400), int(mean_us * 1600), count)
    found[0] = WAIT_NS
    return found


class Exact(ChipTest):
    """Stamps, against the simulator's own record of the pins."""

    def compared(self, chip: Chip, count: int, *lines: str) -> dict[str, np.ndarray]:
        """How far each stamp is off, µs; all edges were told."""
        chip.until(lambda: all(chip.edges_us(line).size >= count for line in lines), SOON_S)
        told = {line: chip.edges_us(line) for line in lines}
        lost = [chip.lost(line) for line in lines]
        pins = chip.pins_us()
        self.assertEqual([[]] * len(lines), lost)
        off = {line: told[line] - pins[line][-count:] for line in lines}
        zero = np.median(np.concatenate(list(off.values())))
        return {line: errors - zero for line, errors in off.items()}

    def played(self, count: int, mean_us: float, *lines: str, **options: object) -> dict:
        """Errors of edges at random on lines."""
        for again in (True, True, False):
            chip = self.chip(**options)
            chip.listen(*lines)
            for number, line in enumerate(lines):
                chip.play(line, widths(count, mean_us, number))
            try:
                return self.compared(chip, count, *lines)
            except InVain:
                # Time flies in the chip: a host that this computer held up was silent for long.
                if not again:
                    raise
        raise AssertionError

    def test_ordinary_and_fine(self) -> None:
        """Each kind of line by itself: within 0.5 µs for 99 %, 1.5 µs for all; a tick at the pin
        of the timer's capture.
        """
        for line in ("D2", "D4", "A0"):
            errors = np.abs(self.played(1500, 60.0, line)[line])
            self.assertGreaterEqual(np.mean(errors <= 0.5), 0.99, line)
            self.assertLessEqual(errors.max(), 1.5, line)
        self.assertLessEqual(np.abs(self.played(1500, 60.0, "D8")["D8"]).max(), 0.5)

    def test_together(self) -> None:
        """Lines that change at once wait for each other, a little."""
        for errors in self.played(800, 400.0, "D2", "D4", "A0").values():
            self.assertGreaterEqual(np.mean(np.abs(errors) <= 0.5), 0.95)
            self.assertLessEqual(np.percentile(np.abs(errors), 99), 2.0)
            self.assertLessEqual(np.abs(errors).max(), 6.0)  # one that waited for two others

    def test_another_chip(self) -> None:
        """The same source on the ATmega2560, with two fine lines."""
        found = self.played(600, 300.0, "D2", "D20", "D49", "D48", chip="atmega2560")
        for line in ("D49", "D48"):
            self.assertLessEqual(np.abs(found[line] - np.median(found[line])).max(), 0.5, line)
        for line in ("D2", "D20"):  # they wait for two fine lines, too
            off = np.abs(found[line] - np.median(found[line]))
            self.assertGreaterEqual(np.mean(off <= 0.5), 0.9, line)
            self.assertLessEqual(off.max(), 12.0, line)

    def test_as_many_as_promised(self) -> None:
        """The rates of the table, without a loss."""
        for baud, rate in ((1_000_000, 32_000), (500_000, 24_000), (115_200, 4_000)):
            errors = self.played(rate // 4, 1e6 / rate, "D2", baud=baud)["D2"]
            self.assertLessEqual(np.abs(errors).max(), 1.5, baud)


class Lines(ChipTest):
    """Short pulses, overflow, asks."""

    def test_short_pulses(self) -> None:
        """From 6 µs on with their width; from 1 µs on as there; to a host of 1.0 without a mark."""
        short = (1.0, 1.5, 2.0, 3.0, 4.5, 6.5, 8.0, 12.0)
        for line, minor in (("D2", 1), ("D4", 1), ("D8", 1), ("D2", 0)):
            chip = self.chip(minor=minor)
            chip.listen(line)
            rows = np.array([row for us in short for row in (400_000, int(us * US))])
            rows[0] = WAIT_NS
            chip.play(line, rows)
            chip.until(lambda chip=chip, line=line: chip.edges_us(line).size >= 2 * len(short))
            times, heard = chip.edges_us(line), chip.heard(line)
            chip.close()
            told = np.diff(times)[::2]
            self.assertTrue((told[:5] <= 6.5).all() and (told > 0).all(), told)
            np.testing.assert_allclose(told[5:], np.array(short[5:]) - 0.3, atol=1.0)
            loose = sum(row.loose for row in heard)
            self.assertEqual(0 if minor == 0 else loose, loose)
            if minor and line != "D8":
                self.assertGreaterEqual(loose, 4)

    def test_more_than_it_can_hold(self) -> None:
        """What finds no room is counted, and listening goes on with the right level."""
        chip = self.chip()
        chip.listen("D2", "D3")
        chip._beat = time.monotonic() + 1e6  # a byte that comes meanwhile would hide edges
        count = 1200
        burst = np.full(count, 9_000)
        burst[0] = WAIT_NS
        chip.play("D2", burst)
        later = widths(100, 200.0, 4)
        later[0] = 60_000_000
        chip.play("D3", later)
        chip.until(lambda: chip.edges_us("D3").size >= 100 and bool(chip.lost("D2")))
        told, lost = chip.edges_us("D2").size, chip.lost("D2")
        self.assertNotIn(None, lost)
        self.assertEqual(count, told + sum(number or 0 for number in lost))
        self.assertEqual([], chip.lost("D3"))
        self.assertIs(Level.HIGH, chip.host._lines[chip.number("D2")].level)

    def test_asks(self) -> None:
        """Steps as they were asked for, to a µs or two; short lows to one."""
        chip = self.chip()
        chip.listen("D4")
        steps = (500, 500, *(6, 64) * 8, *(65, 10) * 4, 1000, 300)
        chip.ask("D4", steps)
        asked = chip.wait(msg.Asked)
        heard = chip.edges_us("D4")
        found = np.diff(chip.pins_us()["D4"])
        self.assertEqual(9, asked.ident)
        self.assertEqual(len(steps), heard.size)
        lows, highs = found[::2] - 0.3, found[1::2] + 0.3
        np.testing.assert_allclose(lows[[0, -1]], [500, 1000], atol=1.0)
        np.testing.assert_allclose(lows[1:9], 6, atol=1.0)
        np.testing.assert_allclose(lows[9:13], 65, atol=1.0)
        np.testing.assert_allclose(highs[1:9], 64, atol=2.5)
        np.testing.assert_allclose(np.diff(heard), found, atol=1.5)

    def test_what_it_refuses(self) -> None:
        """One ask at a time, on lines that are there, with steps that make sense."""
        chip = self.chip()
        chip.listen("D4")
        for message, reason in (
            (msg.AskLine(7), msg.Reason.NO_SUCH_LINE),
            (msg.Listen(1 << 9), msg.Reason.NO_SUCH_LINE),
            (msg.Ask(1, 0, msg.Drive.LOW, b"\0\2\2"), msg.Reason.BAD_CONTENT),
            (msg.Ask(1, 0, msg.Drive.LOW, b"\5" * 81), msg.Reason.TOO_LONG),
        ):
            number = chip.send(message)
            refused = chip.wait(msg.Refused)
            self.assertEqual((number, reason), (refused.number, refused.reason))
        chip.ask("D4", (200_000,))
        chip.ask("D2", (1000,))
        self.assertEqual(msg.Reason.BUSY, chip.wait(msg.Refused).reason)
        chip.hello()
        self.assertEqual([], [row for row in chip.told if isinstance(row, msg.Asked)])
        chip.listen("D4")
        chip.ask("D4", (1000,))
        self.assertEqual(9, chip.wait(msg.Asked).ident)

    def test_pull_up_and_stamps(self) -> None:
        """Switched on and off; how exact a line is, is said."""
        chip = self.chip("D9=echo@D8:1")
        for on in (True, False):
            chip.send(msg.Configure(chip.number("A0"), on))
            chip.wait(msg.Done)
            chip.send(msg.AskLine(chip.number("A0")))
            line = chip.wait(msg.LineIs)
            self.assertEqual(("A0", on), (line.name, line.pull_up))
            self.assertEqual(msg.Can(7), line.can)
        for name, wrong in (("D2", 1000), ("D8", 500)):
            chip.send(msg.AskStamps(chip.number(name)))
            self.assertEqual(wrong, chip.wait(msg.Stamps).wrong_ns)

    def test_nobody_there(self) -> None:
        """Without a word from the host for five seconds it lets go, and waits for another."""
        chip = self.chip()
        chip.listen("D2")
        begin = chip.wait(msg.ProbeBeat).tick
        chip._beat = time.monotonic() + 1e6  # the host is silent from now on
        quiet_since, last = time.monotonic(), begin
        # Where the computer is slow, the chip is: quiet before its time it is not yet silent.
        while time.monotonic() - quiet_since < (
            2.0 if last - begin >= SILENT_TICKS else PATIENCE_S
        ):
            chip.take(0.1)
            beats = [row.tick for row in chip.told if isinstance(row, msg.ProbeBeat)]
            if beats and beats[-1] != last:
                last, quiet_since = beats[-1], time.monotonic()
        self.assertTrue(SILENT_TICKS <= last - begin <= 1.5 * SILENT_TICKS, last - begin)
        self.assertEqual(6, chip.hello().lines)
