"""What ``pivet listen`` prints: every kind of event, for people and as JSON Lines."""

import contextlib
import io
import json
import re
from datetime import datetime
from pathlib import Path
from typing import Any, ClassVar

from pivet.cli.listen_print import JsonPrinter, Printer
from pivet.listening import events as ev
from pivet.listening.calendar import Calendar
from tests.listening.cave import CaveTest, wire

DOCS = Path(__file__).parents[2] / "docs" / "json.md"
CORE = "28-0000051b2c7d"


def documented() -> dict[str, set[str]]:
    """The keys that docs/json.md names for each event, besides those of an exchange."""
    text = DOCS.read_text(encoding="utf-8").partition("## Listening")[2]
    found: dict[str, set[str]] = {}
    for names, _what, keys in re.findall(r"^\| (`.*?) \| (.*?) \| (.*?) \|$", text, re.M):
        common, _, some = keys.partition("and for ")
        (for_whom, *more) = re.findall(r"`([\w-]+)`", some) or [""]
        for name in re.findall(r"`([\w-]+)`", names):
            found[name] = set(re.findall(r"`(\w+)`", common))
            found[name] |= set(more) if name == for_whom else set()
    return found


class Printed(CaveTest):
    """A few minutes with every mishap, heard once."""

    told: ClassVar[list[ev.Event]] = []
    calendar: ClassVar[Calendar]

    def setUp(self) -> None:
        super().setUp()
        if not self.told:
            self.hear()
            taken_back = ev.Withdrawn("shelf_A", 400)
            fed = ev.Fed("broker", "cannot send", 12, 3.5, 340, "it cannot be reached.")
            self.told += [*self.events, taken_back, fed, *self.listener.finish()]
            Printed.calendar = self.listener.calendar

    def hear(self) -> None:
        """What befalls sensors, link and probe."""
        self.listen(wire("shelf_A", "dht22"), wire("wheels"))
        self.passes(12.0)
        self.cave.plug("shelf_A", False, self.now_us)
        self.cave.plug("wheel_1", False, self.now_us)
        self.passes(8.0)
        self.cave.plug("shelf_A", True, self.now_us)
        self.cave.plug("wheel_1", True, self.now_us)
        self.passes(12.0)
        self.drop_bytes(900)
        self.passes(4.0)
        self.loop.crash()
        self.passes(3.0)
        self.loop.plugged = True
        self.passes(6.0)

    def printed(self, printer: Printer) -> list[str]:
        """All that is printed of what happened."""
        out = io.StringIO()
        with contextlib.redirect_stdout(out):
            printer.take(self.told)
        return out.getvalue().splitlines()

    def objects(self) -> dict[str, list[dict[str, Any]]]:
        """The JSON objects by event."""
        found: dict[str, list[dict[str, Any]]] = {}
        for row in map(json.loads, self.printed(JsonPrinter(self.calendar))):
            found.setdefault(row["event"], []).append(row)
        return found

    def test_everything_happened(self) -> None:
        """What the tests of this class rest on."""
        kinds = {type(event) for event in self.told}
        for kind in (ev.Opened, ev.Away, ev.Known, ev.Heard, ev.Missed, ev.Silent, ev.Back):
            self.assertIn(kind, kinds)

    def test_as_documented(self) -> None:
        """Each event has the keys that docs/json.md names, and no other; times have a zone."""
        wanted = documented()
        found = self.objects()
        self.assertLessEqual(set(wanted) - {"note"}, set(found))
        for name, rows in found.items():
            for row in rows:
                if "at" in row:
                    self.assertIsNotNone(datetime.fromisoformat(row["at"]).tzinfo)
                if name == "exchange" or name == "end":
                    self.assertLessEqual(wanted[name], set(row))
                else:
                    self.assertEqual(wanted[name] | {"event"} - {"says"}, set(row) | set(), name)

    def test_what_is_told_of_sensors(self) -> None:
        """Which device, why, and when it is back."""
        found = self.objects()
        silent = {(row["wire"], row["device"]) for row in found["silent"]}
        self.assertEqual({("shelf_A", None), ("wheels", CORE)}, silent)
        back = {(row["wire"], row["device"]) for row in found["sensor-back"]}
        self.assertEqual(silent, back)
        (known,) = found["known"]
        self.assertEqual(("wheels", "onewire"), (known["wire"], known["sensor"]))
        self.assertTrue(any(row["lost"] is None for row in found["gap"]))

    def test_the_sums_at_the_end(self) -> None:
        """By verdict, of what was printed."""
        found = self.objects()
        for row in found["end"]:
            heard = [e for e in found["exchange"] if e["wire"] == row["wire"] and not e["revised"]]
            self.assertEqual(len(heard), row["exchanges"])
            verdicts = ("sound", "near", "unknown", "unsound")
            self.assertEqual(row["exchanges"], sum(row[word] for word in verdicts))

    def test_for_people(self) -> None:
        """One line an event, under the person's names; the way the line is wired beside."""
        printer = Printer(self.calendar)
        printer.names = {CORE: "wheel 1, core"}
        lines = self.printed(printer)
        text = "\n".join(lines)
        for part in (
            "⏸ shelf_A gives no reading: ",
            "⏸ wheels, wheel 1, core gives no reading: ",
            "● shelf_A gives readings again.",
            "● wheels, wheel 1, core gives readings again.",
            "▶ ",
            " is back.",
            "4.7 to 10 kΩ",
        ):
            self.assertIn(part, text)
        self.assertRegex(lines[-1], r"^wheels: \d+ exchanges: \d+ sound")
        self.assertEqual(2, sum(" exchanges: " in line for line in lines))
