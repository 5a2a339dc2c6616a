"""Which wires are listened to: all, those of a capture, one more, one less, one otherwise."""

from unittest import mock

from pivet.files.captures import read_capture
from pivet.frozen import replace
from pivet.listening.listener import Listener
from pivet.listening.setup import WireSetup
from pivet.listening.wires_of_source import everything, recognised
from pivet.sheets.load import find_sheet
from pivet.signal.trace import Level
from pivet.sources.replay import ReplaySource
from pivet.sources.source import About, LineInfo
from tests.base import CAPTURES, PivetTest


def about_of(*names: str) -> About:
    """A source with some lines."""
    return About("made up", tuple(LineInfo(name, True, True, Level.HIGH) for name in names), 100)


class Meant(PivetTest):
    """When nobody names a wire."""

    def test_everything(self) -> None:
        """A line a wire, but a trigger with its echo; names as short as they can be told apart."""
        about = about_of(
            "cave.vat.trigger", "cave.vat.echo", "cave.shelf", "hall.shelf", "x.trigger", "y.echo"
        )
        wires = everything(about, 2.5, 3)
        self.assertEqual(
            [
                ("cave.vat.trigger", "cave.vat.echo"),
                ("cave.shelf",),
                ("hall.shelf",),
                ("x.trigger",),
                ("y.echo",),
            ],
            [row.lines for row in wires],
        )
        self.assertEqual(5, len({row.name for row in wires}))
        self.assertEqual({None}, {row.pull_up for row in everything(about, 2.5, pull_up=True)})
        able = replace(about, lines=(replace(about.lines[2], can_pull_up=True), *about.lines[3:]))
        pulled = everything(able, 2.5, pull_up=True)
        self.assertEqual([True, None, None, None], [row.pull_up for row in pulled])
        self.assertEqual("vat", wires[0].name.rpartition(".")[2])
        self.assertEqual({(None, 2.5, 3)}, {(row.sheet, row.every_s, row.retries) for row in wires})

    def test_known_to_the_source(self) -> None:
        """A line of which the source knows what hangs there, unless the person says otherwise."""
        line = LineInfo("a.q", True, True, Level.HIGH, sheet="onewire")
        listener = Listener(mock.Mock(grows=False), lambda _: [])
        for own in (None, "dht22"):
            setup = WireSetup("x", ("q",), find_sheet(own) if own else None)
            found = listener._named(About("made up", (line,), 100), setup)
            self.assertEqual((("a.q",), own or "onewire"), (found.lines, found.sheet.id))

    def test_recognised(self) -> None:
        """The wires of a capture, under short names or as it calls them."""
        for name, short, whole in (
            ("av_echo.vcd", "logic.TRIG+ECHO", "logic.TRIG,logic.ECHO"),
            ("av_dht22.vcd", "DHT", "logic.DHT"),
        ):
            source = ReplaySource(name, read_capture(CAPTURES / name))
            (setup,) = recognised(source)
            (named,) = recognised(source, whole_names=True)
            self.assertEqual(whole, named.name)
            self.assertIn(setup.name.rpartition(".")[2], short)
            self.assertEqual(tuple(whole.split(",")), setup.lines)
            self.assertIsNotNone(setup.sheet)
            self.assertIsNone(setup.every_s)
