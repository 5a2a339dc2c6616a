"""Feeds in a bench: what is outgoing, what rows say, what a feed may be, who may send."""

import json
import os
from contextlib import closing
from unittest import mock

import keyring
from hypothesis import given
from hypothesis import strategies as st
from keyring.backend import KeyringBackend
from keyring.errors import KeyringLocked

from pivet.cli.choosing import complete_feeds
from pivet.errors import InputError, OutputError
from pivet.feeds.allowed import allowed_path, is_allowed
from pivet.feeds.outbox import Outbox
from pivet.feeds.secret import keep_secret, secret_of
from pivet.feeds.setup import FeedSetup, new_setup, read_setup
from pivet.feeds.state import FeedState, State
from pivet.feeds.tell import state_lines, waiting_words
from pivet.feeds.trouble import words_of
from pivet.files.benchfile.feeds import (
    Change,
    FeedRow,
    add_all_held,
    outgoing_rows,
    put_feed,
    sent_exchanges,
)
from pivet.files.benchfile.rows import ExchangeRow
from pivet.files.benchfile.store import BenchFile
from pivet.history.open import open_readings
from pivet.history.table import table_rows
from pivet.keeping.outgoing import changes_of, has_feeds
from pivet.person.annotations import Labels, read_annotations
from pivet.person.roles import NO_ROLES
from pivet.person.stored import read_roles
from pivet.standin.cloud import Cloud, CloudRules
from tests.base import CAPTURES
from tests.cli.running import pivet
from tests.feeds.benches import FeedTest
from tests.night import copy_of_sparse_night

URL = "mqtt://127.0.0.1:1"
AGES = [
    FeedState("out", URL, State.FAILING, 1, age_s)
    for age_s in (120.0, 7200.0, 172_799.0, 172_800.0)
]


class Rows(FeedTest):
    """What is said of exchanges."""

    def test_as_readings_are_told(self) -> None:
        """A whole night, row by row, as the table of readings has it."""
        path = copy_of_sparse_night(self.folder)
        with closing(BenchFile.open(path)) as bench:
            with bench.writing():
                add_all_held(bench, "out")
            labels = Labels(read_roles(bench), read_annotations(bench))
            outbox = Outbox(bench, lambda: labels)
            found = []
            done = 0
            while outgoing := outgoing_rows(bench, "out", done, 1000):
                found += outbox.rows(outgoing)
                done = outgoing[-1].seq
        with open_readings(path, NO_ROLES) as told:
            wanted = list(table_rows(told.series(derived=False), clock=True))
        keys = [(row.time, row.wire, row.device) for row in wanted]
        rows = {(one.row.time, one.row.wire, one.row.device): one.row for one in found}
        self.assertGreater(len(wanted), 2_000)
        for key, row in zip(keys, wanted, strict=True):
            mine = rows.pop(key)
            self.assertEqual(row, mine._replace(cells=row.cells), key)
            for one, other in zip(row.cells, sorted(mine.cells), strict=True):
                self.assertEqual(one[:3], other[:3], key)
        times = [one.at_ns for one in found]
        self.assertEqual(sorted(times), times)

    def test_values(self) -> None:
        """Corrected ones with the raw value beside them; what follows where it is wanted."""
        with self.bench.writing():
            self.bench.run(
                "INSERT INTO correction VALUES (?, ?, ?, ?, ?, ?)",
                [("shelf_A", "", "temperature", 1.0, 0.5, "[]")],
            )
        labels = Labels(NO_ROLES, read_annotations(self.bench))
        self.feeds.add("out", FeedSetup(url=URL))
        self.hear(1)
        outgoing = outgoing_rows(self.bench, "out", 0, 10)
        (plain,) = Outbox(self.bench, lambda: labels).rows(outgoing)
        (more,) = Outbox(self.bench, lambda: labels, derived=True).rows(outgoing)
        said = [(cell.quantity, cell.value, cell.raw) for cell in plain.row.cells]
        self.assertEqual([("humidity", 90.0, None), ("temperature", 11.5, 11.0)], said)
        self.assertEqual(
            ["humidity", "temperature", "dew point", "absolute humidity", "heat index"],
            [cell.quantity for cell in more.row.cells],
        )

    def test_calendar(self) -> None:
        """Between two looks at the calendar in proportion, beyond them as at the last."""
        with self.bench.writing():
            for t_s, off_s in ((10, 0), (30, 2)):
                wall = self.feeds._bench.captures()[0].began_ns + (t_s + off_s) * 10**9
                self.bench.add_clock(1, t_s * 10**9, wall)
        self.feeds.add("out", FeedSetup(url=URL))
        self.hear(20)
        rows = Outbox(self.bench, Labels).rows(outgoing_rows(self.bench, "out", 0, 50))
        began = self.bench.captures()[0].began_ns
        seconds = {row.row.exchange: (row.at_ns - began) / 1e9 for row in rows}
        self.assertEqual((0.0, 10.0), (seconds[0], seconds[5]))
        self.assertEqual((21.0, 32.0, 38.0), (seconds[10], seconds[15], seconds[18]))


class Recorded(FeedTest):
    """What is outgoing of what is recorded."""

    def row(self, number: int, verdict: int = 0) -> ExchangeRow:
        return ExchangeRow(number, number * 2 * 10**9, 10**6, verdict, 0, 1, None, None)

    def test_changes(self) -> None:
        """New ones; what was judged or read anew; what is gone; not what is as it was."""
        self.hear(5)
        readings = {
            number: [("humidity", "%RH", "", 90.0 + number / 10), ("temperature", "°C", "", value)]
            for number, value in ((0, 11.0), (1, 11.1), (2, 99.0), (6, 11.6))
        }
        rows = {0: self.row(0), 1: self.row(1, verdict=1), 2: self.row(2), 6: self.row(6)}
        found = changes_of(self.bench, self.wire.id, rows, readings, {0, 1, 2, 6}, {4, 9})
        self.assertEqual(
            [(1, Change.REVISED), (2, Change.REVISED), (4, Change.WITHDRAWN), (6, Change.NEW)],
            sorted((row[2], row[3]) for row in found),
        )
        self.assertEqual({number * 2 * 10**9 for number in (1, 2, 4, 6)}, {row[0] for row in found})

    def test_only_with_feeds(self) -> None:
        """A bench without feeds keeps no list; a feed begins with what comes after it."""
        self.assertFalse(has_feeds(self.bench))
        self.feeds.add("out", FeedSetup(url=URL))
        self.assertTrue(has_feeds(self.bench))
        self.hear(3)
        self.feeds.add("later", FeedSetup(url=URL))
        self.assertEqual([3, 0], [row.waiting for row in reversed(self.feeds.states())])

    def test_a_feed_of_its_own(self) -> None:
        """What one feed sends once more, others do not."""
        self.feeds.add("a", FeedSetup(url=URL))
        self.feeds.add("b", FeedSetup(url=URL))
        self.hear(4)
        self.feeds.send_again("b")
        self.assertEqual([4, 8], [row.waiting for row in self.feeds.states()])
        self.feeds.remove("b")
        left = self.bench.rows("SELECT seq, feed FROM outgoing ORDER BY seq")
        self.assertEqual([(1, ""), (2, ""), (3, ""), (4, ""), (8, "b")], left)
        self.assertEqual([4], [row.waiting for row in self.feeds.states()])

    def test_numbers_never_come_again(self) -> None:
        """A feed that goes with what only it was to send takes no number with it."""
        self.feeds.add("a", FeedSetup(url=URL))
        self.hear(4)
        self.feeds.send_again("a")
        self.feeds.add("b", FeedSetup(url=URL))
        self.feeds.remove("a")
        self.hear(3)
        self.assertEqual([3], [row.waiting for row in self.feeds.states()])

    def test_exchanges_that_are_gone(self) -> None:
        """They are left out; neighbours of other numbers as well."""
        self.hear(6)
        found = sent_exchanges(self.bench, self.wire.id, [1, 4, 9])
        self.assertEqual([1, 4], sorted(found))
        self.assertEqual((("humidity", "", 90.1), ("temperature", "", 11.1)), found[1].readings)


class Setups(FeedTest):
    """What a feed may be."""

    def test_refused(self) -> None:
        """Each in a sentence that says what to do."""
        for more, says in (
            ({"url": "ftp://x"}, "no address of a feed"),
            ({"url": "mqtt://"}, "no address of a feed"),
            ({"url": "mqtt://x:0"}, "no address of a feed"),
            ({"url": "mqtt://x:99999"}, "no address of a feed"),
            ({"url": "mqtt://x/a"}, "has a path"),
            ({"url": "https://me:secret@x"}, "would stand in the bench"),
            ({"url": "http://x", "secret": "sesame"}, "no place of a password"),
            ({"url": "http://x", "secret": "env:HOME"}, "no place of a password"),
            ({"url": "http://x", "key_at": "header:X"}, "not where the key is"),
            ({"url": "http://x", "key_at": "cookie:a", "secret": "keyring"}, "no place for a key"),
            ({"url": "mqtt://x", "batch": 2}, "only http feeds"),
            ({"url": "http://x", "batch": 0}, "1 to 10,000 rows"),
            ({"url": "mqtt://x", "qos": 0}, "QoS 1 or 2"),
            ({"url": "mqtts://x", "cert": "a"}, "needs its key"),
            ({"url": "mqtt://x", "ca": "a"}, "need an encrypted connection"),
            ({"url": "mqtt://x", "topic": "a/#"}, "no topic to publish to"),
            ({"url": "mqtt://x", "topic": "{warmth}"}, "{warmth} that nothing fills"),
            ({"url": "http://x", "template": "{"}, "is no JSON"),
            ({"url": "http://x", "secret": "keyring", "key_at": "body"}, "template with .key."),
        ):
            with self.assertRaisesRegex(InputError, says):
                self.feeds.add("out", FeedSetup(**more))  # type: ignore[arg-type]
        self.assertEqual([], self.feeds.rows())

    @given(
        st.sampled_from(["mqtt://cave:1", "https://x/a?b=c", "openmetrics://127.0.0.1"]),
        st.lists(st.sampled_from(["°F", "cm", "K"]), max_size=2),
        st.integers(0, 90),
    )
    def test_round_trip(self, url: str, units: list[str], every: int) -> None:
        """Through the JSON of the bench."""
        made = new_setup(FeedSetup(url=url, units=tuple(units), every_s=float(every)))
        self.assertEqual(made, read_setup(made.text()))
        self.assertEqual(16, len(made.id))

    def test_of_strangers(self) -> None:
        """What a file holds is a feed of this form, or none; and it sends only when it is let."""
        for text in ("", "[]", "{}", '{"url": "x"}', '{"url": "http://x", "form": 2}'):
            self.assertIsNone(read_setup(text), text)
        self.assertIsNone(read_setup('{"url": "http://x", "secret": "env:HOME"}'))
        made = new_setup(FeedSetup(url=URL))
        with self.bench.writing():
            put_feed(self.bench, FeedRow("theirs", made.text()))
            put_feed(self.bench, FeedRow("broken", "?"))
        self.assertEqual({State.STRANGE}, {row.state for row in self.feeds.states()})
        self.feeds.start()
        self.assertFalse(self.feeds.sends)
        with self.assertRaisesRegex(InputError, "makes no sense here"):
            self.feeds.resume("broken")
        self.feeds.resume("theirs")
        self.assertTrue(is_allowed(made))
        elsewhere = FeedSetup(url="mqtt://elsewhere", id=made.id)
        self.assertFalse(is_allowed(elsewhere))
        self.feeds.start()
        self.assertTrue(self.feeds.sends)
        self.feeds.stop()
        allowed_path().write_text("[]")
        self.assertFalse(is_allowed(made))

    def test_paused(self) -> None:
        """What is heard meanwhile waits."""
        self.feeds.add("out", FeedSetup(url=URL))
        self.feeds.pause("out")
        self.hear(3)
        self.feeds.start()
        (state,) = self.feeds.states()
        self.assertEqual((State.PAUSED, 3), (state.state, state.waiting))
        self.assertFalse(self.feeds.sends)
        self.feeds.resume("out")
        self.assertEqual(State.WAITING, self.feeds.states()[0].state)

    def test_told(self) -> None:
        """On a line, and its trouble below."""
        state = FeedState("out", URL, State.FAILING, 12, 7300.0, 1, 1_772_917_200 * 10**9, "why.")
        self.assertEqual(
            [
                "out: cannot send; 12 exchanges waiting, the oldest 2.0 h old; 1 row sent; "
                f"last acknowledged 2026-03-07T21:00:00.000+00:00; {URL}",
                "    why.",
            ],
            state_lines(state),
        )
        young = FeedState("out", URL, State.SENDING, 1, 0.5)
        self.assertEqual(
            [f"out: sending; 1 exchange waiting; 0 rows sent; {URL}"], state_lines(young)
        )
        late = waiting_words(FeedState("out", URL, State.SENDING, 2, 1.0))
        self.assertEqual("2 exchanges waiting, the oldest 1 s old", late)
        self.assertEqual("", waiting_words(FeedState("out", URL, State.IDLE, 0, 9.0)))
        ages = [words.rpartition("oldest ")[2] for words in map(waiting_words, AGES)]
        self.assertEqual(["2 min old", "2.0 h old", "48.0 h old", "2 days old"], ages)

    def test_words_of_errors(self) -> None:
        """What the system says, without its number; what a package says, not too long."""
        self.assertEqual("No such file", words_of(OSError(2, "No such file")))
        self.assertEqual("plain", words_of(ValueError("plain")))
        self.assertEqual(200, len(words_of(ValueError("x" * 300))))


class Memory(KeyringBackend):  # type: ignore[misc]
    """A keyring in memory; it can be locked."""

    priority = 1

    def __init__(self) -> None:
        super().__init__()
        self.kept: dict[tuple[str, str], str] = {}
        self.locked = False

    def _check(self) -> None:
        if self.locked:
            raise KeyringLocked("it is locked")

    def get_password(self, service: str, username: str) -> str | None:
        self._check()
        return self.kept.get((service, username))

    def set_password(self, service: str, username: str, password: str) -> None:
        self._check()
        self.kept[(service, username)] = password

    def delete_password(self, service: str, username: str) -> None:
        self._check()
        del self.kept[(service, username)]


class Keyring(FeedTest):
    """Keys that the desktop keeps."""

    def test_kept_and_gone(self) -> None:
        """Bound to feed and host; gone with the feed; a locked keyring is a sentence."""
        before, mine = keyring.get_keyring(), Memory()
        self.addCleanup(keyring.set_keyring, before)
        keyring.set_keyring(mine)
        cloud = Cloud(CloudRules("sesame"))
        self.addCleanup(cloud.close)
        more = {"secret": "keyring", "key_at": "header:X-Key"}
        setup = self.feeds.add("out", FeedSetup(url=cloud.url, **more))  # type: ignore[arg-type]
        with self.assertRaisesRegex(InputError, "no key for this feed: give it"):
            self.feeds.test("out")
        keep_secret(setup, "sesame")
        self.assertEqual([("Pivet feed", f"{setup.id}@127.0.0.1")], list(mine.kept))
        self.assertIn("taken by", self.feeds.test("out"))
        self.assertEqual("", secret_of(FeedSetup(url=cloud.url)))
        mine.locked = True
        with self.assertRaisesRegex(InputError, "cannot be read .*unlock it"):
            self.feeds.test("out")
        with self.assertRaisesRegex(OutputError, "cannot be written .*unlock it"):
            keep_secret(setup, "x")
        mine.locked = False
        self.feeds.remove("out")
        self.assertEqual({}, mine.kept)
        self.bench.close()
        done = pivet(
            *("feed", "add", self.bench.path, "out", cloud.url, "--secret-from", "keyring"),
            *("--key-at", "header:X-Key"),
            typed="sesame\n",
        )
        self.assertEqual(0, done.exit_code, done.stderr)
        self.assertEqual(["sesame"], list(mine.kept.values()))
        pivet("feed", "secret", self.bench.path, "out", typed="other\n")
        self.assertEqual(["other"], list(mine.kept.values()))


class Commands(FeedTest):
    """``pivet feed`` as a person types it."""

    def run_feed(self, *words: object, status: int = 0) -> str:
        done = pivet("feed", *words)
        self.assertEqual(status, done.exit_code, done.stderr)
        return done.stdout + done.stderr

    def test_by_hand(self) -> None:
        """Added, listed, tested, sent, paused, removed."""
        self.hear(3)
        path = self.bench.path
        self.bench.close()
        cloud = Cloud(CloudRules())
        self.addCleanup(cloud.close)
        self.assertIn("has no feed", self.run_feed("list", path))
        self.assertIn("added to", self.run_feed("add", path, "out", cloud.url, "--all"))
        self.assertIn("already", self.run_feed("add", path, "out", cloud.url, status=2))
        self.assertIn("waiting; 3 exchanges waiting", self.run_feed("list", path))
        held = pivet("bench", "info", path).stdout
        self.assertIn("\nfeed out: waiting; 3 exchanges waiting, the oldest ", held)
        self.assertIn("taken by 127.0.0.1", self.run_feed("test", path, "out"))
        self.assertIn("all sent; 3 rows sent", self.run_feed("send", path, "out"))
        self.assertEqual(
            [2, 0, 1, 2], [one.body["readings"][0]["exchange"] for one in cloud.updates]
        )
        said = json.loads(self.run_feed("list", path, "--json"))
        self.assertEqual(
            ("all sent", 0, 3, None), tuple(said[k] for k in ("state", "waiting", "sent", "error"))
        )
        self.run_feed("send", path, "out", "--again")
        self.assertEqual(7, len(cloud.updates))
        cloud.close()
        late = self.run_feed("send", path, "out", "--again", "--for", "1s", status=1)
        self.assertIn("cannot be reached", late)
        self.assertIn("3 exchanges waiting", late)
        self.assertIn("paused", self.run_feed("pause", path, "out"))
        self.assertIn("paused", self.run_feed("list", path))
        self.assertIn("sends again", self.run_feed("resume", path, "out"))
        self.assertIn("takes no key", self.run_feed("secret", path, "out", status=2))
        self.assertIn("removed", self.run_feed("remove", path, "out"))
        self.assertIn(
            "has no feed 'out': its feeds: none", self.run_feed("send", path, "out", status=2)
        )

    def test_while_it_listens(self) -> None:
        """What is heard is sent at once; how the feed did is told at the end."""
        cloud = Cloud(CloudRules())
        self.addCleanup(cloud.close)
        self.feeds.add("out", FeedSetup(url=cloud.url, batch=10))
        self.bench.close()
        capture = f"replay:{CAPTURES / 'iv_dht22_cave.vcd'}"
        words = ("listen", "--source", capture, "--pace", "max", "--wire", "tb.data")
        done = pivet(*words, "--bench", self.bench.path, "--feed", "out", "--json")
        self.assertEqual(0, done.exit_code, done.stderr)
        rows = [row for one in cloud.updates for row in one.body["readings"]]
        self.assertEqual([0, 1, 2, 3], [row["exchange"] for row in rows])
        said = [json.loads(line) for line in done.stdout.splitlines()]
        last = [row for row in said if row["event"] == "feed"][-1]
        self.assertEqual(("all sent", 0, 4), (last["state"], last["waiting"], last["sent"]))
        plain = pivet(*words, "--bench", self.bench.path, "--feed", "out")
        self.assertIn("  feed out: all sent\n", plain.stdout)
        refused = pivet(*words, "--feed", "out")
        self.assertIn("--feed sends what a bench keeps: give --bench FILE", refused.stderr)
        unknown = pivet(*words, "--bench", self.bench.path, "--feed", "other")
        self.assertIn("has no feed 'other': its feeds: out", unknown.stderr)

    def test_while_it_is_open(self) -> None:
        """Listed, tested; not changed."""
        self.feeds.add("out", FeedSetup(url=URL))
        self.assertIn("all sent", self.run_feed("list", self.bench.path))
        self.assertIn("another window", self.run_feed("send", self.bench.path, "out", status=2))

    def test_fetched_is_not_sent(self) -> None:
        """One sentence."""
        self.feeds.add("out", FeedSetup(url="openmetrics://127.0.0.1:9"))
        self.bench.close()
        self.assertIn(
            "is fetched, not sent", self.run_feed("send", self.bench.path, "out", status=2)
        )

    def test_completed(self) -> None:
        """The feeds of the bench that was typed."""
        for name in ("broker", "bench", "cloud"):
            self.feeds.add(name, FeedSetup(url=URL))
        words = {"COMP_WORDS": f"pivet feed test {self.bench.path} b"}
        with mock.patch.dict(os.environ, words):
            found = complete_feeds(mock.Mock(), mock.Mock(), "b")
        self.assertEqual(["bench", "broker"], [row.value for row in found])

    def test_files_and_units(self) -> None:
        """Wrong ones are said."""
        path = self.bench.path
        self.bench.close()
        url = "http://x"
        self.assertIn(
            "no unit", self.run_feed("add", path, "out", url, "--unit", "stone", status=2)
        )
        binary = self.folder / "t.json"
        binary.write_bytes(b"\xff\xfe")
        words = ("add", path, "out", url, "--template", str(binary))
        self.assertIn("no text file", self.run_feed(*words, status=2))
