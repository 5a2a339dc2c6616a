"""Several lines at once: each wire once, whatever stands beside it, in whatever order."""

from contextlib import suppress
from unittest.mock import patch

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from pivet.captures import looking
from pivet.captures.capture import Capture, add_named, capture_of
from pivet.captures.looking import MOST_PAIRED, MOST_TURNED
from pivet.errors import Cancelled, InputError
from pivet.sheets.load import find_sheet
from tests.base import PivetTest
from tests.physics import echo, humidity, onewire
from tests.physics.line import NOTHING, Times, joined, pulled_low, traced

Lines = dict[str, tuple[Times, bool]]
Place = tuple[str, tuple[str, ...]]
"""A family, and the names of a wire's lines in its order."""

FRAMES = joined([humidity.exchange(humidity.frame_22(50, 20), 2.1e6 * n) for n in (1, 2)])
READ = onewire.Bus().convert().scratchpad(onewire.pad_28(21.5)).edges()
SHOTS = echo.shots(np.random.default_rng(1), np.array([0.5, 1.0, 1.5, 2.0, 0.7]))
TRIGGER, BACK = SHOTS.triggers.ravel(), SHOTS.echoes.ravel()
CLOCK = 60_000.0 * np.arange(1, 400)
ASKS = joined([humidity.exchange(humidity.frame_22(50, 20), 2.1e6 * n)[:2] for n in (1, 2, 3)])

ANSWERED: dict[str, tuple[str, Lines]] = {
    "frames": ("humidity-frame", {"data": (FRAMES, True)}),
    "read": ("one-wire", {"dq": (READ, True)}),
    "shots": ("echo-pulse", {"trig": (TRIGGER, False), "echo": (BACK, False)}),
    "pin": ("echo-pulse", {"sig": (pulled_low(SHOTS.triggers, SHOTS.echoes + 30.0), False)}),
}
OTHERS: dict[str, Lines] = {"clock": {"clk": (CLOCK, False)}, "quiet": {"en": (NOTHING, True)}}


def moved(lines: Lines, by: float, over: bool = False) -> Lines:
    """The same later, and recorded inverted."""
    return {name: (edges + by, high != over) for name, (edges, high) in lines.items()}


def wires_of(capture: Capture) -> list[Place]:
    """Families and lines."""
    return [(row.family.key, tuple(line.name for line in row.lines)) for row in capture.wires]


@st.composite
def benches(draw: st.DrawFn) -> tuple[Lines, list[Place], list[str]]:
    """Lines in some order, the wires among them, and those that are inverted."""
    kinds = draw(st.lists(st.sampled_from([*ANSWERED]), max_size=4, unique=True))
    over = set(draw(st.lists(st.sampled_from(["frames", "read"]), max_size=2)))
    others = draw(st.lists(st.sampled_from([*OTHERS]), max_size=2, unique=True))
    rows: Lines = {}
    for number, kind in enumerate(kinds):
        rows |= moved(ANSWERED[kind][1], 777.0 * number, kind in over)
    for kind in others:
        rows |= OTHERS[kind]
    order = draw(st.permutations(list(rows)))
    lines = {name: rows[name] for name in order}
    wires = [(family, tuple(row)) for kind in kinds for family, row in [ANSWERED[kind]]]
    wires.sort(key=lambda row: min(order.index(name) for name in row[1]))
    turned = [next(iter(ANSWERED[kind][1])) for kind in kinds if kind in over]
    return lines, wires, turned


class Together(PivetTest):
    """Wires beside each other and beside what is none."""

    @given(benches())
    def test_each_once(self, bench: tuple[Lines, list[Place], list[str]]) -> None:
        """In the order of the lines; those that are inverted are offered, or turned over."""
        lines, wires, turned = bench
        plain = capture_of(self.folder / "x.vcd", traced(lines))
        self.assertEqual([row for row in wires if row[1][0] not in turned], wires_of(plain))
        self.assertEqual(set(turned), {row.names for row in plain.offers if row.inverted})
        taken = capture_of(self.folder / "x.vcd", traced(lines), invert=True)
        self.assertEqual(wires, wires_of(taken))
        over = {row.lines[0].name for row in taken.wires if row.lines[0].turned}
        self.assertEqual(set(turned), over)
        self.assertEqual([], [row for row in taken.offers if row.inverted])

    @given(benches(), st.data())
    def test_chosen(self, bench: tuple[Lines, list[Place], list[str]], data: st.DataObject) -> None:
        """As one sheet: the wires of its family only."""
        lines, wires, turned = bench
        sheet = find_sheet(data.draw(st.sampled_from(["dht22", "onewire", "hc-sr04"])))
        wanted = [row for row in wires if row[0] == sheet.family and row[1][0] not in turned]
        if wanted:
            found = capture_of(self.folder / "x.vcd", traced(lines), sheet)
            self.assertEqual(wanted, wires_of(found))


class Added(PivetTest):
    """Lines of an open capture that the person adds."""

    def test_added(self) -> None:
        """Decoded as they look, as what is chosen, turned over; else a sentence."""
        lines = OTHERS["clock"] | ANSWERED["frames"][1] | {"over": (READ, False)}
        silent = {"quiet_low": (NOTHING, False), "quiet_high": (NOTHING, True)}
        capture = capture_of(self.folder / "x.vcd", traced(lines | silent))
        self.assertEqual("humidity-frame", add_named(capture, "data").family.key)
        self.assertEqual("one-wire", add_named(capture, "over", invert=True).family.key)
        chosen = add_named(capture, "clk", sheet=find_sheet("dht11"))
        self.assertEqual(("humidity-frame", "dht11"), (chosen.family.key, chosen.sheet.id))
        for name, says in (
            ("clk", "clk looks like no sensor known here: say which sensor it is."),
            ("over", "over looks like no sensor known here: turned over it carries 1-Wire"),
            ("quiet_low", "stays low (a short, a pin that drives it low, no pull-up, or a level"),
            ("quiet_high", "stays high (nobody asks, or it is another pin)"),
            ("quiet_low,data", "the line quiet_low of x.vcd never changes"),
            ("data,data", "'data,data' names the same line twice"),
            ("a,b,c", "'a,b,c' names no wire"),
            ("data,", "'data,' names no wire"),
        ):
            with self.subTest(name), self.assertRaises(InputError) as caught:
                add_named(capture, name)
            self.assertIn(says, str(caught.exception))


class Alone(PivetTest):
    """What is found, or not, where little speaks for it."""

    def found(self, lines: Lines, wire: str | None = None, sensor: str | None = None) -> Capture:
        """A capture of lines."""
        sheet = None if sensor is None else find_sheet(sensor)
        return capture_of(self.folder / "x.vcd", traced(lines), sheet, wire)

    def test_asks_without_an_answer(self) -> None:
        """A wire where nothing else answers; beside one that does they may be anything."""
        asks = {"ask": (ASKS, True)}
        self.assertEqual([("humidity-frame", ("ask",))], wires_of(self.found(asks)))
        self.assertEqual([("one-wire", ("dq",))], wires_of(self.found(asks | ANSWERED["read"][1])))

    def test_silent_echo(self) -> None:
        """Triggers with the line that should answer; it rests low, and its name says so."""
        trig = {"trig": (TRIGGER, False)}
        for other, high, wanted in (
            ("echo", False, [("echo-pulse", ("trig", "echo"))]),
            ("echo", True, []),
        ):
            with self.subTest(other, high=high):
                found = wires_of(self.found(trig | {other: (NOTHING, high)}))
                self.assertEqual(wanted, [row for row in found if len(row[1]) == 2])

    def test_copies(self) -> None:
        """A second recording of a line adds nothing: the first of them stands for both."""
        for kind in ("frames", "read"):
            family, rows = ANSWERED[kind]
            for names in (("data", "tap"), ("tap", "data")):
                with self.subTest(kind, first=names[0]):
                    found = self.found({name: row for name in names for row in rows.values()})
                    self.assertEqual([(family, (names[0],))], wires_of(found))

    def test_named(self) -> None:
        """Lines that the person names: the family that they look like, or what may be meant."""
        lines = ANSWERED["read"][1] | ANSWERED["shots"][1] | OTHERS["clock"]
        self.assertEqual([("one-wire", ("dq",))], wires_of(self.found(lines, "dq")))
        self.assertEqual(
            [("echo-pulse", ("trig", "echo"))], wires_of(self.found(lines, "trig,echo"))
        )
        self.assertEqual([], wires_of(self.found(lines, "clk")))
        self.assertEqual(
            [("humidity-frame", ("clk",))], wires_of(self.found(lines, "clk", "dht22"))
        )
        alone = self.found(lines, "echo")
        self.assertEqual(([], ["echo"]), (wires_of(alone), [row.names for row in alone.offers]))
        chosen = self.found(lines, "echo", "hc-sr04")
        self.assertEqual([("echo-pulse", ("echo",))], wires_of(chosen))
        self.assertEqual(["echo"], [row.names for row in chosen.offers])

    def test_named_inverted(self) -> None:
        """Offered, decoded when asked for; what is no answer either way is turned over too."""
        over = {"dq": (READ, False)}
        said = self.found(over, "dq")
        self.assertEqual(([], [True]), (wires_of(said), [row.inverted for row in said.offers]))
        chosen = self.found(over, "dq", "onewire")
        self.assertEqual(
            ([("one-wire", ("dq",))], [True]),
            (wires_of(chosen), [row.inverted for row in chosen.offers]),
        )
        trace = traced(OTHERS["clock"])
        taken = capture_of(self.folder / "x.vcd", trace, find_sheet("dht22"), "clk", invert=True)
        self.assertEqual([True], [row.lines[0].turned for row in taken.wires])
        self.assertEqual((), taken.offers)

    def test_of_many_lines_no_pairs_are_tried(self) -> None:
        """Up to a number of lines that nobody claims."""
        shots = ANSWERED["shots"][1]
        for more, wanted in ((MOST_PAIRED - 2, 1), (MOST_PAIRED - 1, 0)):
            clocks = {f"clk{n}": (CLOCK + 100.0 * n, False) for n in range(more)}
            found = [row for row in wires_of(self.found(clocks | shots)) if row[0] == "echo-pulse"]
            self.assertEqual(wanted, len(found), more)

    def test_turned_pairs(self) -> None:
        """Which of two lines is inverted is said, of few lines that nobody claims."""
        for over, says in (
            ({"trig", "echo"}, "turned over it carries "),
            ({"echo"}, "turned over echo makes it "),
            ({"trig"}, "turned over trig makes it "),
        ):
            shots = {n: (e, n in over) for n, (e, _) in ANSWERED["shots"][1].items()}
            for more in (MOST_TURNED - 2, MOST_TURNED - 1):
                clocks = {f"clk{n}": (CLOCK + 100.0 * n, False) for n in range(more)}
                offers = [row for row in self.found(clocks | shots).offers if row.inverted]
                wanted = [] if more == MOST_TURNED - 1 else [("trig,echo", True)]
                with self.subTest(over, more=more):
                    found = [(row.names, row.says.startswith(says)) for row in offers]
                    self.assertEqual(wanted, found)

    def test_a_look_settles_long_lines(self) -> None:
        """Of a long line the beginning is looked at; all of it is decoded."""
        lines = ANSWERED["read"][1] | ANSWERED["frames"][1] | OTHERS["clock"]
        whole = self.found(lines)
        with patch.object(looking, "LOOK", 100):
            looked = self.found(lines)
            one = capture_of(self.folder / "x.vcd", traced(lines), find_sheet("dht22"))
        self.assertEqual(wires_of(whole), wires_of(looked))
        self.assertEqual([("humidity-frame", ("data",))], wires_of(one))
        for row, other in zip(whole.wires, looked.wires, strict=True):
            self.assert_same_exchanges(row.exchanges, other.exchanges)

    def test_names_help(self) -> None:
        """Of several silent lines the one that is called echo; names that are swapped are told."""
        quiet = dict.fromkeys(("en", "my_Echo"), (NOTHING, False))
        found = wires_of(self.found({"trig": (TRIGGER, False)} | quiet))
        self.assertIn(("echo-pulse", ("trig", "my_Echo")), found)
        swapped = self.found({"sr.ECHO": (TRIGGER, False), "sr.Trig": (BACK, False)})
        self.assertIn("sr.ECHO carries the triggers", " ".join(swapped.notes))

    def test_one_pin_beside_two(self) -> None:
        """The same shots on one pin and on two: the wire of fewer lines shows them all."""
        pin = {"sig": (pulled_low(SHOTS.triggers, SHOTS.echoes), False)}
        found = wires_of(self.found(ANSWERED["shots"][1] | pin))
        self.assertEqual([("echo-pulse", ("sig",))], found)

    def test_progress(self) -> None:
        """It only grows, to the end."""
        told: list[float] = []
        lines = ANSWERED["read"][1] | ANSWERED["frames"][1] | OTHERS["clock"]
        capture_of(self.folder / "x.vcd", traced(lines), progress=told.append)
        self.assertEqual(sorted(told), told)
        self.assertAlmostEqual(1.0, told[-1])
        self.assertGreater(len(told), 3)

    def test_it_can_be_stopped_anywhere(self) -> None:
        """Each pair of lines, each line turned over, each wire that is made tells of itself."""

        def calls(lines: Lines, end: int = 0) -> int:
            told: list[float] = []

            def tell(share: float) -> None:
                told.append(share)
                if len(told) == end:
                    raise Cancelled

            with suppress(Cancelled):
                capture_of(self.folder / "x.vcd", traced(lines), progress=tell)
            self.assertEqual(sorted(told), told)
            return len(told)

        free = {f"q{n}": (CLOCK + 1e3 * n, False) for n in range(MOST_TURNED + 2)}
        few, many = (calls(dict(list(free.items())[:count])) for count in (3, MOST_TURNED + 2))
        alone = calls({"q0": free["q0"]})
        number = MOST_TURNED + 2
        self.assertGreaterEqual(few, 3 * alone // 2 + 3 * 2 + 3 + 3 * 2)
        self.assertGreaterEqual(many, number * (number - 1) + number)
        for end in range(1, few + 1, 5):
            self.assertEqual(end, calls(dict(list(free.items())[:3]), end))
        both = ANSWERED["read"][1] | ANSWERED["frames"][1]
        self.assertGreater(calls(both), calls(ANSWERED["read"][1]) + 1)
