"""Which wires are listened to: all, those of a capture, one more, one less, one otherwise."""

from unittest import mock

from pivet.errors import InputError, PivetError
from pivet.files.captures import read_capture
from pivet.frozen import replace
from pivet.listening import events as ev
from pivet.listening.setup import WireSetup
from pivet.listening.wires_of_source import everything, recognised
from pivet.person.choices import WireChoices
from pivet.sheets.load import find_sheet
from pivet.signal.trace import Level
from pivet.sources.replay import ReplaySource
from pivet.sources.source import About, LineInfo, SourceError
from tests.base import CAPTURES, PivetTest
from tests.listening.cave import CaveTest, wire


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


class Changed(CaveTest):
    """While it is listened."""

    def refused(self, error: type[PivetError], setup: WireSetup) -> str:
        """What is said against one wire more."""
        before = list(self.listener.wires)
        with self.assertRaises(error) as caught:
            self.listener.add(setup)
        self.assertEqual(before, self.listener.wires)
        return str(caught.exception)

    def test_one_more(self) -> None:
        """It is heard like the others; a taken name or line and a hurry are refused."""
        self.listen(wire("shelf_A", "dht22", 2.1))
        self.assertIn("called 'shelf_A'", self.refused(InputError, wire("shelf_A", "dht22")))
        other = replace(wire("shelf_A", "dht22"), name="other")
        self.assertIn("shelf_A", self.refused(InputError, other))
        hurry = wire("wash_room", "dht11", 0.5)
        self.assertIn("cannot be asked every 0.5 s", self.refused(InputError, hurry))
        self.refused(SourceError, wire("nowhere", "dht22", 2.1))
        self.listener.add(wire("wash_room", "dht11", 1.1))
        self.passes(4.0)
        self.assertGreater(len(self.heard("wash_room")), 2)
        self.assertGreater(len(self.heard("shelf_A")), 1)

    def test_pull_ups(self) -> None:
        """Those of a wire that is added or looked at are switched as wished, no others."""
        shelf, wash = wire("shelf_A", "dht22", 2.1), wire("wash_room", "dht11", 2.1)
        with mock.patch.object(self.source, "pull_up") as switched:
            self.listen(replace(shelf, pull_up=True))
            self.listener.add(replace(wash, pull_up=False))
            self.listener.look(replace(wire("wheels"), pull_up=True))
            self.listener.add(wire("blast_chiller", "dht22", 2.1))
        wanted = [("cave.shelf_A", True), ("cave.wash_room", False), ("cave.wheels", True)]
        self.assertEqual(wanted, [call.args for call in switched.call_args_list])

    def test_one_less_and_again(self) -> None:
        """At rest nothing is heard of it, and its line is free for others."""
        self.listen(wire("shelf_A", "dht22", 2.1), wire("wash_room", "dht11", 1.1))
        self.passes(3.0)
        self.listener.rest("wash_room", True)
        self.listener.rest("wash_room", True)
        self.passes(1.0)
        count = len(self.heard("wash_room"))
        self.assertGreater(count, 1)
        self.passes(5.0)
        self.assertEqual(count, len(self.heard("wash_room")))
        self.listener.rest("wash_room", False)
        self.passes(4.0)
        self.assertGreater(len(self.heard("wash_room")), count + 1)
        self.listener.rest("wash_room", True)
        self.listener.add(replace(wire("wash_room", "dht11", 1.1), name="other"))
        with self.assertRaises(InputError):
            self.listener.rest("wash_room", False)
        self.assertTrue(self.listener.wire("wash_room").resting)
        with self.assertRaisesRegex(InputError, "no wire is called 'nobody'"):
            self.listener.rest("nobody", True)

    def test_asked_otherwise(self) -> None:
        """More seldom, or not at all; a hurry is refused and changes nothing."""
        self.listen(wire("wash_room", "dht11", 1.1))
        self.passes(4.0)
        self.listener.change("wash_room", 3.0, 2)
        before = len(self.heard("wash_room"))
        self.passes(9.1)
        self.assertIn(len(self.heard("wash_room")) - before, (3, 4))
        with self.assertRaisesRegex(InputError, "cannot be asked every 0.2 s"):
            self.listener.change("wash_room", 0.2, 1)
        setup = self.listener.wire("wash_room").setup
        self.assertEqual((3.0, 2), (setup.every_s, setup.retries))
        self.listener.change("wash_room", None, 0)
        self.passes(1.0)
        before = len(self.heard("wash_room"))
        self.passes(4.0)
        self.assertEqual(before, len(self.heard("wash_room")))

    def test_a_type_is_chosen(self) -> None:
        """A wire of which nobody knows what it carries is asked as soon as its type is chosen."""
        self.listen(wire("wash_room", None, None))
        self.passes(3.0)
        row = self.listener.wire("wash_room")
        self.assertIsNone(row.sheet)
        row.choose(WireChoices())
        self.assertIsNone(row.sheet)
        row.choose(WireChoices(sheet=find_sheet("dht11")))
        self.assertIs(find_sheet("dht11"), row.sheet)
        self.listener.change("wash_room", 1.1, 0)
        self.passes(4.0)
        self.assertGreater(len(self.heard("wash_room")), 2)

    def test_a_look(self) -> None:
        """Lines that are no wire are looked at, told of, and left alone again."""
        self.listen(wire("shelf_A", "dht22", 2.1))
        self.listener.look(wire("wash_room"))
        known = self.until(lambda event: isinstance(event, ev.Known))
        assert isinstance(known, ev.Known)
        assert known.found.sheet is not None
        self.assertEqual(("wash_room", "dht11"), (known.wire, known.found.sheet.id))
        self.assertEqual(["shelf_A"], [row.name for row in self.listener.wires])

    def test_gone(self) -> None:
        """Nothing is added while the source is away."""
        self.listen(wire("shelf_A", "dht22", 2.1))
        self.source.close()
        self.until(lambda event: isinstance(event, ev.Away))
        self.assertIn(
            "wait until it is back", self.refused(SourceError, wire("wash_room", "dht11"))
        )
