"""The stand-in cloud: keys, pace, batches, moods; and the last readings as OpenMetrics text."""

import json
import os
import time
import urllib.request
from datetime import UTC, datetime
from itertools import pairwise
from typing import Any
from unittest import mock

from hypothesis import given
from hypothesis import strategies as st

from pivet.errors import InputError
from pivet.feeds.http import HttpSender, retry_after_s
from pivet.feeds.metrics import MetricsSender
from pivet.feeds.outbox import Outbox
from pivet.feeds.setup import FeedSetup
from pivet.feeds.template import Body, topic_of
from pivet.feeds.trouble import FeedTrouble
from pivet.files.benchfile.feeds import outgoing_rows
from pivet.person.annotations import Labels
from pivet.standin.cloud import Cloud, CloudRules
from tests.base import WRITABLE
from tests.feeds.benches import FeedTest
from tests.feeds.broker import free_port
from tests.patience import PATIENCE_S

KEY = {"PIVET_CLOUD": "sesame"}
WITH_KEY: dict[str, Any] = {"secret": "env:PIVET_CLOUD", "key_at": "header:X-Key"}


class CloudTest(FeedTest):
    """Has a cloud, and its key in the environment."""

    def setUp(self) -> None:
        super().setUp()
        mine = mock.patch.dict(os.environ, KEY)
        mine.start()
        self.addCleanup(mine.stop)

    def cloud(self, key: str = "", least_s: float = 0.0, most_rows: int = 1000) -> Cloud:
        """A service with some rules."""
        made = Cloud(CloudRules(key, least_s, most_rows))
        self.addCleanup(made.close)
        return made

    def exchanges(self, cloud: Cloud) -> list[int]:
        """What it took of our own form, each once."""
        rows = [row["exchange"] for one in cloud.updates for row in one.body["readings"]]
        return list(dict.fromkeys(rows))


class Posts(CloudTest):
    """Updates on their way."""

    def test_its_pace_is_kept(self) -> None:
        """No request comes too soon; also not the first one of a program that was just started."""
        cloud = self.cloud("sesame", least_s=0.4)
        self.add(cloud.url, every_s=0.4, **WITH_KEY)
        self.hear(3)
        self.feeds.start()
        self.wait_for(lambda: len(cloud.updates) == 2, "two updates")
        self.feeds.stop()
        self.feeds.start()
        self.all_sent()
        self.assertEqual([0, 1, 2], self.exchanges(cloud))
        self.assertEqual([], cloud.refused)
        waits = [b.at_s - a.at_s for a, b in pairwise(cloud.updates)]
        self.assertTrue(all(wait >= 0.4 for wait in waits), waits)

    def test_slow_down(self) -> None:
        """A 429 is obeyed, whoever rings; nothing is lost."""
        cloud = self.cloud(least_s=1.0)
        self.add(cloud.url)
        self.hear(2)
        self.feeds.start()
        heard = lambda: "429 Too Many Requests" in self.feeds.states()[0].trouble  # noqa: E731
        self.wait_for(heard, "it refuses")
        for _ in range(20):
            self.feeds.wake()
            time.sleep(0.01)
        self.assertEqual([429], cloud.refused)
        self.all_sent()
        self.assertEqual([0, 1], self.exchanges(cloud))
        self.assertLessEqual(len(cloud.refused), 2)

    def test_moods(self) -> None:
        """Failures, hang-ups and dawdling: everything arrives, in order."""
        cloud = self.cloud()
        for order in ("fail 500 2", "drop 2", "slow 0.05"):
            self.assertEqual("ok", cloud.order(order))
        self.add(cloud.url, batch=4)
        self.hear(25)
        self.feeds.start()
        self.all_sent()
        self.assertEqual([*range(25)], self.exchanges(cloud))
        self.assertEqual([500, 500], cloud.refused)
        with self.assertRaisesRegex(InputError, "'rain 3.' is no order: fail CODE TIMES"):
            cloud.order("rain 3.")

    def test_too_many_rows_at_once(self) -> None:
        """Batches are halved until they are taken."""
        cloud = self.cloud(most_rows=3)
        self.add(cloud.url, batch=16)
        self.hear(20)
        self.feeds.start()
        self.all_sent()
        self.assertEqual([*range(20)], self.exchanges(cloud))
        self.assertEqual([413, 413, 413], cloud.refused)
        self.assertEqual(2, max(len(one.body["readings"]) for one in cloud.updates))

    def test_a_row_that_is_too_large(self) -> None:
        """There is nothing smaller: it waits a minute; two rows are tried one by one, at once."""
        cloud = self.cloud(most_rows=0)
        self.add(cloud.url, batch=2)
        self.hear(2)
        rows = Outbox(self.bench, Labels).rows(outgoing_rows(self.bench, "out", 0, 9))
        sender = HttpSender(FeedSetup(url=cloud.url, batch=2), "out")
        self.addCleanup(sender.close)
        for wait_s in (None, 60.0, 60.0):
            with self.assertRaisesRegex(FeedTrouble, "413 .*send fewer rows") as refused:
                sender.send(rows)
            self.assertEqual(wait_s, refused.exception.wait_s)
        self.assertEqual([413] * 3, cloud.refused)

    def test_keys(self) -> None:
        """In a header, the query, or the body; a wrong one is said."""
        cloud = self.cloud("sesame")
        body = json.dumps({"key": "{key}", "at": "{time}", "t": "{temperature}"})
        for more in (
            {"key_at": "header:X-Key"},
            {"key_at": "query:key"},
            {"key_at": "body", "template": body},
        ):
            setup = FeedSetup(url=cloud.url, secret="env:PIVET_CLOUD", **more)  # type: ignore[arg-type]
            self.assertIn("taken by 127.0.0.1", self.feeds.test_setup("out", setup))
        self.assertEqual(
            {"key": "sesame", "at": cloud.updates[-1].body["at"], "t": 11.8}, cloud.updates[-1].body
        )
        refused = self.assertRaisesRegex(FeedTrouble, "401 Unauthorized: check the key")
        with mock.patch.dict(os.environ, {"PIVET_CLOUD": "wrong"}), refused:
            self.feeds.test_setup("out", setup)
        with self.assertRaisesRegex(FeedTrouble, "401"):
            self.feeds.test_setup("out", FeedSetup(url=cloud.url))

    def test_other_refusals(self) -> None:
        """What is wrong, and what to do."""
        cloud = self.cloud()
        setup = FeedSetup(url=cloud.url)
        for code, says in (
            (302, "302 Found, which leads to elsewhere: give that address"),
            (404, "404 Not Found: check address, key and template"),
            (503, "503 Service Unavailable: it wants fewer requests"),
            (599, "599 no known answer"),
        ):
            cloud.order(f"fail {code} 1")
            with self.assertRaisesRegex(FeedTrouble, says):
                self.feeds.test_setup("out", setup)
        cloud.order("away 5")
        with self.assertRaisesRegex(FeedTrouble, "cannot be reached"):
            self.feeds.test_setup("out", setup)

    def test_own_form(self) -> None:
        """Word by word; gaps have their reason."""
        cloud = self.cloud()
        setup = self.add(cloud.url, batch=100, units=("°F",))
        self.hear(10)
        self.feeds.start()
        self.all_sent()
        said = cloud.updates[0].body
        self.assertEqual((1, "out", 10), (said["form"], said["feed"], len(said["readings"])))
        self.assertEqual(
            {
                "id": f"{setup.id}-1-1-1",
                "time": "2026-03-07T21:00:02.000+00:00",
                "wire": "shelf_A",
                "values": {
                    "humidity": {"value": 90.1, "unit": "%RH"},
                    "temperature": {"value": 52.0, "unit": "°F"},
                },
                "verdict": "sound",
                "exchange": 1,
            },
            said["readings"][1],
        )
        gap = said["readings"][9]
        self.assertEqual({"value": None, "unit": "°F"}, gap["values"]["temperature"])
        self.assertEqual(("unsound", "no reading"), (gap["verdict"], gap["reason"]))

    def test_templates(self) -> None:
        """Values stand as numbers, what is not there is left out, rows where they are wanted."""
        cloud = self.cloud()
        each = {
            "at": "{unix}",
            "{wire} t": "{temperature?}",
            "why": "{reason?}",
            "n": ["{exchange}"],
        }
        template = {"each": each, "body": {"rows": "{rows}", "from": "{key}-"}}
        self.add(cloud.url, batch=50, template=json.dumps(template))
        self.hear(10)
        self.feeds.start()
        self.all_sent()
        rows = cloud.updates[0].body["rows"]
        self.assertEqual("-", cloud.updates[0].body["from"])
        first = {"at": 1772917200.0, "shelf_A t": 11.0, "why": "", "n": [0]}
        self.assertEqual(first, rows[0])
        self.assertEqual({"at", "why", "n"}, set(rows[9]))

    def test_bad_templates(self) -> None:
        """One sentence, before anything is sent."""
        for text, says in (
            ("{", "is no JSON"),
            ('"{warmth}"', "has a place {warmth} that nothing fills"),
            ('{"each": "{rows}", "body": ""}', "{rows} that nothing fills"),
        ):
            with self.assertRaisesRegex(InputError, says):
                Body(text)
            with self.assertRaises(InputError):
                HttpSender(FeedSetup(url="http://x", template=text), "out")

    @given(st.text(WRITABLE, max_size=20), st.text(WRITABLE, max_size=20))
    def test_topics(self, wire: str, device: str) -> None:
        """No name makes levels or patterns of its own."""
        made = topic_of("a/{wire}/{device}/x", {"wire": wire, "device": device})
        self.assertEqual(2 + bool(wire) + bool(device), len(made.split("/")))
        self.assertFalse(set("+#\0") & set(made))

    def test_retry_after(self) -> None:
        """Seconds or a date (RFC 9110); rubbish says nothing."""
        now = datetime(2026, 3, 7, 21, 0, tzinfo=UTC)
        for text, wanted in (
            ("", None),
            ("soon", None),
            (" 7 ", 7.0),
            ("99999999", 3600.0),
            ("Sat, 07 Mar 2026 21:00:30 GMT", 30.0),
            ("Sat, 07 Mar 2026 20:00:00 GMT", 0.0),
            ("Sat, 07 Mar 2026 21:00:30", 30.0),
        ):
            self.assertEqual(wanted, retry_after_s(text, now), text)


class Fetched(FeedTest):
    """The last readings, for whoever fetches them."""

    def fetched(self, port: int, path: str = "metrics") -> str:
        with urllib.request.urlopen(
            f"http://127.0.0.1:{port}/{path}", timeout=PATIENCE_S
        ) as answer:
            self.assertIn("application/openmetrics-text", answer.headers["Content-Type"])
            return str(answer.read().decode())

    def test_metrics(self) -> None:
        """Values by sensor, gaps as gaps; it ends as OpenMetrics wants it."""
        port = free_port()
        self.hear(1)
        self.add(f"openmetrics://127.0.0.1:{port}", units=("°F",))
        self.feeds.start()
        self.all_sent()
        self.assertIn("} 51.8\n", self.fetched(port))
        self.assertIn(f"http://127.0.0.1:{port}/metrics now", self.feeds.test("out"))
        self.hear(8)
        self.all_sent()
        text = self.fetched(port)
        labels = '{device="",role="",wire="shelf_A"}'
        self.assertIn(f"\npivet_temperature_fahrenheit{labels} 52.0\n", text)
        self.assertIn(f"\npivet_humidity_percent{labels} 90.1\n", text)
        self.assertIn(f"\npivet_read_seconds{labels} 1.772917216e+09\n", text)
        self.assertIn('pivet_exchanges_total{verdict="sound",wire="shelf_A"} 8.0', text)
        self.assertTrue(text.endswith("# EOF\n"))
        self.hear(1)
        self.all_sent()
        text = self.fetched(port, "")
        self.assertNotIn("celsius{", text)
        self.assertNotIn("fahrenheit{", text)
        gap = 'pivet_reading_missing{device="",reason="no reading",role="",wire="shelf_A"} 1.0'
        self.assertIn(gap, text)
        with self.assertRaises(urllib.error.HTTPError) as refused:
            self.fetched(port, "secrets")
        refused.exception.close()
        self.assertEqual(404, refused.exception.code)
        self.feeds.stop()
        with self.assertRaises(OSError):
            self.fetched(port)

    def test_a_taken_port(self) -> None:
        """One sentence."""
        cloud = Cloud(CloudRules())
        self.addCleanup(cloud.close)
        port = int(cloud.url.rpartition(":")[2].partition("/")[0])
        sender = MetricsSender(FeedSetup(url=f"openmetrics://127.0.0.1:{port}"), "out")
        self.addCleanup(sender.close)
        with self.assertRaisesRegex(FeedTrouble, "cannot be served .*take another port"):
            sender.open()
