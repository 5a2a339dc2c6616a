"""Rehearsal held against firmware: three readers in C, compiled for a simulated chip."""

import re
import shutil
import subprocess
import tempfile
import unittest
from pathlib import Path

import numpy as np
import numpy.typing as npt

from pivet.captures.wire import Wire
from pivet.insight.outcomes import Outcome
from pivet.insight.readers import Reader
from pivet.insight.rehearsal import rehearse
from pivet.insight.side import Side
from tests.base import PivetTest
from tests.insight.signals import cave_frames, humidity_wire, widths_of
from tests.physics.humidity import AM, COPY
from tests.physics.line import Times

HERE = Path(__file__).parent / "chip"
COUNT = 140
AGREE = 0.99

READERS = {
    "width": Reader("width", 30.0, resolution_us=1 / 16, timeout_us=100.0),
    "sample": Reader("sample", 30.0),
    # A turn of its loop takes 15 cycles of 1/16 µs, putting a bit away 32.
    "poll": Reader("poll", period_us=15 / 16, work_us=2.0, limit=1000),
}
"""As the sources in ``chip`` have their constants."""


def strayed(
    reader: str, random: np.random.Generator
) -> tuple[list[bytes], list[npt.NDArray[np.float64]]]:
    """Frames of which one in five has pulses that this reader may take for the other.

    Zeros grow past 30 µs, and past what is waited for; ones shrink below the low before them. (What
    is within a turn of the low hangs on where the loop began: nobody can foretell it.)
    """
    part = COPY if reader == "poll" else AM
    frames = cave_frames(COUNT, 7)
    rows = []
    for data in frames:
        widths = widths_of(data, part) + random.normal(0, 0.3, 84)
        highs = widths[4:84:2]
        bits = np.unpackbits(np.frombuffer(data, np.uint8))
        if random.random() < 0.22:
            kind = 1 if reader == "poll" else 0
            chosen = random.choice(np.flatnonzero(bits == kind), random.integers(1, 4))
            highs[chosen] += random.uniform(-29, -17) if kind else random.uniform(0, 12)
        if random.random() < 0.03 and reader != "poll":
            highs[random.choice(np.flatnonzero(bits == 1))] += 60  # longer than a timeout
        rows.append(np.round(widths, 3))
    return frames, rows


def built(folder: Path) -> Path:
    """The simulated chip and the three readers."""
    libraries = ["-lsimavr", "-lm"]
    feed = ["gcc", "-O2", "-o", str(folder / "feed"), str(HERE / "feed.c"), *libraries]
    subprocess.run(feed, check=True)
    for name in READERS:
        words = ["avr-gcc", "-mmcu=atmega328p", "-O2", "-std=gnu99", "-o", str(folder / name)]
        subprocess.run([*words, str(HERE / f"{name}.c")], check=True)
    return folder


@unittest.skipUnless(shutil.which("avr-gcc"), "gcc-avr is not installed")
class Truth(PivetTest):
    """What the chip read, and what Rehearsal foretold."""

    made: Path

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        folder = tempfile.TemporaryDirectory(prefix="pivet-readers-")
        cls.addClassCleanup(folder.cleanup)
        cls.made = built(Path(folder.name))

    def on_chip(self, reader: str, rows: list[Times], sent: list[bytes]) -> list[Outcome]:
        """What became of frames on the chip."""
        path = self.folder / f"{reader}.frames"
        (np.stack(rows) * 1000).round().astype("<i4").tofile(path)
        words = [str(self.made / "feed"), str(self.made / reader), str(path)]
        said = subprocess.run(words, capture_output=True, text=True, check=True).stdout
        rows_said = re.findall(r"^(\d) ([0-9a-f]{10})$", said, re.MULTILINE)
        found = []
        for (how, data), wanted in zip(rows_said, sent, strict=True):
            taken = bytes.fromhex(data)
            if how != "0":
                found.append(Outcome.TIMEOUT)
            elif taken == wanted:
                found.append(Outcome.RIGHT)
            else:
                holds = sum(taken[:4]) & 255 == taken[4]
                found.append(Outcome.WRONG if holds else Outcome.REFUSED)
        return found

    def wire(self, frames: list[bytes], rows: list[Times]) -> Wire:
        """The same edges as a capture."""
        return humidity_wire(frames, widths=rows, step_ns=1)

    def test_readers(self) -> None:
        """At least 99 % of exchanges agree, and there is something to foretell in all of them."""
        for name, reader in READERS.items():
            frames, rows = strayed(name, np.random.default_rng(11))
            wire = self.wire(frames, rows)
            self.assertEqual(COUNT, len(wire))
            # What Pivet reads on the wire counts, also of a pulse that is neither 0 nor 1.
            on_wire = [wire.family.data(wire.exchanges, index) for index in range(COUNT)]
            chip = self.on_chip(name, rows, on_wire)
            foretold = rehearse(Side(wire), reader).found.outcome
            agree = float(np.mean(foretold == np.array(chip)))
            failed = sum(outcome is not Outcome.RIGHT for outcome in chip)
            with self.subTest(name, failed=failed, agree=agree):
                self.assertGreater(failed, 0.08 * COUNT)
                self.assertGreaterEqual(agree, AGREE)
