"""docs/feeds.md: its examples are what is sent, and what a reader of it needs is there."""

import json
import re
import unittest
from pathlib import Path

from pivet.feeds.message import FIELDS, reading_object, row_object
from pivet.feeds.outbox import Sent
from pivet.feeds.setup import SCHEMES, FeedSetup
from pivet.feeds.template import TOPIC_FIELDS, Body
from pivet.files.benchfile.feeds import Change
from pivet.files.readings_table import Cell, TableRow
from pivet.readings.units import AS_KEPT
from pivet.standin.cloud import ORDERS

TEXT = (Path(__file__).parents[2] / "docs/feeds.md").read_text(encoding="utf-8")
EXAMPLES = [json.loads(block) for block in re.findall(r"```json\n(.*?)\n```", TEXT, re.DOTALL)]
FEED = "5f0e1c22a94b6d37"
FAHRENHEIT = AS_KEPT.with_unit("°F")


def sent(exchange: int, time: str, warm: float) -> Sent:
    """A row of shelf A."""
    cells = (Cell("humidity", 90.0 + exchange / 10, 1), Cell("temperature", warm, 1))
    row = TableRow(time, "shelf_A", "", "", exchange, cells, "sound", "")
    return Sent(1, f"1-1-{exchange}", 0, row)


class Documented(unittest.TestCase):
    """Whoever reads the page can take what comes."""

    def test_readings(self) -> None:
        """One that was read, and one that failed."""
        one = sent(0, "2026-03-07T21:00:00.000+00:00", 11.0)
        self.assertEqual(EXAMPLES[0], reading_object(FEED, one, one.row.cells[1], FAHRENHEIT))
        code = "28-01193cf2e5d0"
        cell = Cell("temperature", None, 4)
        row = TableRow(
            *("2026-03-07T21:38:03.971+00:00", "wheels", "wheel 3, core", code, 101, (cell,)),
            *("unsound", "a device has left"),
        )
        failed = Sent(1, f"1-3-101-{code}", 0, row)
        self.assertEqual(EXAMPLES[1], reading_object(FEED, failed, cell, AS_KEPT))

    def test_an_update(self) -> None:
        """Our own form."""
        one = sent(1, "2026-03-07T21:00:02.000+00:00", 11.1)
        rows = [row_object(FEED, one, FAHRENHEIT)]
        self.assertEqual(EXAMPLES[2], {"form": 1, "feed": "dash", "readings": rows})

    def test_a_template(self) -> None:
        """The example can be used."""
        body = Body(json.dumps(EXAMPLES[3]))
        self.assertTrue(body.several and body.has_key)
        rows = [{"unix": 1.5, "temperature": 11.0}, {"unix": 2.5, "humidity": 90.0}]
        self.assertEqual(
            {"key": "k", "updates": [{"at": 1.5, "t": 11.0}, {"at": 2.5, "rh": 90.0}]},
            body.filled([{**row} for row in rows], "k"),
        )

    def test_keys(self) -> None:
        """A correction under a correction: every key that can be there is in the table."""
        cell = Cell("temperature", 11.5, 1, raw=11.0)
        row = TableRow("t", "wheels", "core", "28-0", 1, (cell,), "near", "")
        keys = set(reading_object(FEED, Sent(1, "x", 0, row, Change.REVISED), cell, AS_KEPT))
        for key in keys | {"reason", *FIELDS, *TOPIC_FIELDS, *SCHEMES}:
            self.assertIn(key, TEXT)
        for order in ORDERS.replace(", or ", ", ").split(", "):
            self.assertIn(f"`{order}`", TEXT)

    def test_no_secret_in_a_setup(self) -> None:
        """What a bench holds has a place of the key, and no key."""
        text = FeedSetup(url="http://x", secret="env:PIVET_K", key_at="body").text()
        wanted = {"url": "http://x", "secret": "env:PIVET_K", "key_at": "body"}
        self.assertEqual(wanted, json.loads(text))
