"""What a wire read last, beside an exchange that is to give nothing."""

import numpy as np

from pivet.captures.capture import open_capture
from pivet.captures.last_readings import given_before, last_reading
from pivet.person.display import Display
from pivet.person.roles import Roles
from tests.base import CAPTURES, PivetTest
from tests.cli.running import pivet


class Before(PivetTest):
    """``given_before`` at every exchange of captures of each family."""

    def test_each_exchange(self) -> None:
        """The value of each device that was given up to there, and when the newest was read."""
        made = self.folder / "ow.vcd"
        pivet("standin", made, "--sensor", "onewire", "--devices", "3", "--count", "4", "-q")
        for path in (made, CAPTURES / "av_dht22.vcd", CAPTURES / "av_echo.vcd"):
            wire = open_capture(path).wires[0]
            for index in range(len(wire)):
                wanted, last = [], -1
                for track in wire.tracks:
                    rows = [
                        (at, value)
                        for at, value, given in zip(
                            track.at.tolist(), track.values.tolist(), track.given, strict=True
                        )
                        if given and at <= index
                    ]
                    if rows:
                        wanted.append(rows[-1][1])
                        last = max(last, rows[-1][0])
                found = given_before(wire, index)
                texts = found.text.splitlines()
                self.assertEqual(len(wanted), len(texts), index)
                for value, text in zip(wanted, texts, strict=True):
                    shown = float(text.rpartition(": ")[2].split()[0])
                    self.assertLess(abs(shown - value), 0.06)
                if wanted:
                    self.assertEqual(int(wire.exchanges.end_ns[last]), found.end_ns)
                else:
                    self.assertEqual(("", 0), (found.text, found.end_ns))

    def test_names_and_corrections(self) -> None:
        """Devices are called by their roles."""
        made = self.folder / "ow.vcd"
        pivet("standin", made, "--sensor", "onewire", "--devices", "2", "--count", "2", "-q")
        wire = open_capture(made).wires[0]
        code = wire.tracks[0].rom
        shown = Display(roles=Roles().named(code, "wheel 1"))
        self.assertIn("wheel 1: ", given_before(wire, len(wire) - 1, shown).text)
        self.assertTrue(np.any(wire.tracks[0].given))

    def test_many_devices(self) -> None:
        """No more than five are told of."""
        made = self.folder / "ow.vcd"
        pivet("standin", made, "--sensor", "onewire", "--devices", "8", "--count", "2", "-q")
        wire = open_capture(made).wires[0]
        self.assertEqual(8, sum(bool(track.given.any()) for track in wire.tracks))
        self.assertEqual(5, len(given_before(wire, len(wire) - 1).text.splitlines()))
        self.assertEqual(5, len(last_reading(wire).split(" · ")))
