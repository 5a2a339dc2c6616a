"""A real broker: order, last values, who is here, user properties, passwords and certificates."""

import json
import os
import shutil
import signal
import ssl
import subprocess
import sys
from pathlib import Path
from unittest import mock

import paho.mqtt.client as paho

from pivet.errors import InputError
from pivet.feeds.trouble import FeedTrouble
from pivet.files.benchfile.feeds import Change, add_outgoing, feed_rows
from tests.feeds.benches import FeedTest
from tests.feeds.broker import Broker, Collector

Json = dict[str, object]


def readings(collector: Collector) -> list[Json]:
    """The readings among all that came, each once, in the order in which they came first."""
    found: dict[str, Json] = {}
    for message in collector.messages:
        if message.payload.startswith(b"{"):
            said = json.loads(message.payload)
            if "quantity" in said:
                found.setdefault(said["id"], said)
    return list(found.values())


class Plain(FeedTest):
    """A broker that lets everybody in."""

    def setUp(self) -> None:
        super().setUp()
        self.broker = Broker(self.folder)
        self.addCleanup(self.broker.kill)
        self.url = f"mqtt://127.0.0.1:{self.broker.port}"

    def collector(self) -> Collector:
        made = Collector(self.broker)
        self.addCleanup(made.close)
        return made

    def came(self, collector: Collector, count: int) -> list[Json]:
        """Readings, when so many have come."""
        self.wait_for(lambda: len(readings(collector)) >= count, "messages come")
        return readings(collector)

    def test_two_outages_and_a_kill(self) -> None:
        """Every reading arrives, in order, with the time at which it was read."""
        collector = self.collector()
        self.add(self.url, topic="cave/{wire}/{quantity}")
        self.hear(100)
        self.feeds.start()
        self.came(collector, 100)
        self.broker.stop()
        self.hear(150)
        self.feeds.wake()
        self.wait_for(lambda: self.feeds.states()[0].state == "cannot send", "it fails")
        self.assertIn("127.0.0.1", self.feeds.states()[0].trouble)
        self.broker.start()
        self.came(collector, 500)
        self.feeds.stop()
        self.hear(50)
        words = [sys.executable, "-c", KILLED, str(self.bench.path)]
        self.bench.close()
        killed = subprocess.Popen(words, stdout=subprocess.PIPE)
        assert killed.stdout is not None
        killed.stdout.readline()
        killed.send_signal(signal.SIGKILL)
        killed.communicate()
        self.bench = type(self.bench).open(self.bench.path)
        self.addCleanup(self.bench.close)
        self.feeds = type(self.feeds)(self.bench)
        self.addCleanup(self.feeds.stop)
        self.broker.stop()
        self.feeds.start()
        self.wait_for(lambda: self.feeds.states()[0].state == "cannot send", "it fails")
        self.broker.start()
        found = self.came(collector, 600)
        wanted = [(row, name) for row in range(300) for name in ("humidity", "temperature")]
        self.assertEqual(wanted, [(row["exchange"], row["quantity"]) for row in found])
        times = [str(row["time"]) for row in found]
        self.assertEqual(sorted(times), times)
        self.assertEqual("2026-03-07T21:00:00.000+00:00", times[0])

    def test_messages(self) -> None:
        """Word by word, with their properties; a gap takes the last value's place."""
        collector = self.collector()
        setup = self.add(self.url, units=("°F",), expiry_s=60)
        self.hear(10)
        self.feeds.start()
        self.came(collector, 20)
        first = next(row for row in collector.messages if row.topic.endswith("temperature"))
        self.assertEqual("pivet/shelf_A/temperature", first.topic)
        self.assertEqual(
            {
                "form": 1,
                "id": f"{setup.id}-1-1-0-temperature",
                "time": "2026-03-07T21:00:00.000+00:00",
                "wire": "shelf_A",
                "quantity": "temperature",
                "value": 51.8,
                "unit": "°F",
                "verdict": "sound",
                "exchange": 0,
            },
            json.loads(first.payload),
        )
        properties = first.properties
        self.assertEqual([("unit", "°F"), ("verdict", "sound")], properties.UserProperty)
        self.assertEqual("application/json", properties.ContentType)
        self.assertIn(properties.MessageExpiryInterval, range(30, 61))
        late = self.collector()
        self.came(late, 2)
        kept = {
            row.topic: json.loads(row.payload)
            for row in late.messages
            if row.retain and row.payload.startswith(b"{")
        }
        gap = kept["pivet/shelf_A/temperature"]
        self.assertEqual((None, 9), (gap["value"], gap["exchange"]))
        self.assertEqual("no reading", gap["reason"])

    def test_corrections(self) -> None:
        """Said to be such; that of an older reading is not kept as the last value."""
        collector = self.collector()
        self.add(self.url)
        self.hear(3)
        self.feeds.start()
        self.came(collector, 6)
        with self.bench.writing():
            add_outgoing(self.bench, [(self.wire.id, 1, Change.REVISED)])
        self.feeds.wake()

        def corrected() -> int:
            return sum(b"correction" in row.payload for row in collector.messages)

        # Both quantities: who comes in between hears the second as it is sent.
        self.wait_for(lambda: corrected() == 2, "they come")
        said = json.loads(collector.messages[-1].payload)
        self.assertEqual((1, True), (said["exchange"], said["correction"]))
        late = self.collector()
        self.came(late, 2)
        self.assertEqual({2}, {row["exchange"] for row in readings(late)})

    def test_plain_and_unkept(self) -> None:
        """The value alone; nothing is kept where that is not wanted."""
        collector = self.collector()
        self.add(self.url, plain=True, retain=False, topic="{wire}/{device}/{quantity}")
        self.hear(10)
        self.feeds.start()
        self.all_sent()
        self.wait_for(lambda: len(collector.messages) >= 21, "messages come")
        found = [row.payload for row in collector.messages if row.topic == "shelf_A/humidity"]
        self.assertEqual([b"90.0", b"90.1"], found[:2])
        self.assertEqual(b"", found[9])
        late = self.collector()
        self.wait_for(lambda: bool(late.messages), "the state is kept")
        self.assertEqual(["pivet/state"], [row.topic for row in late.messages])

    def state_now(self) -> str:
        late = self.collector()
        self.wait_for(lambda: any(row.topic == "pivet/state" for row in late.messages), "state")
        return late.messages[0].payload.decode()

    def test_who_is_here(self) -> None:
        """Online while it sends; offline when it ended in order, and when it was killed."""
        self.add(self.url)
        self.feeds.start()
        self.all_sent()
        self.assertEqual("online", self.state_now())
        self.feeds.stop()
        self.assertEqual("offline", self.state_now())
        self.hear(5)
        self.bench.close()
        words = [sys.executable, "-c", KILLED, str(self.bench.path)]
        killed = subprocess.Popen(words, stdout=subprocess.PIPE)
        assert killed.stdout is not None
        killed.stdout.readline()
        collector = self.collector()
        killed.kill()
        killed.communicate()
        self.wait_for(
            lambda: (
                [row.payload for row in collector.messages if row.topic == "pivet/state"][-1:]
                == [b"offline"]
            ),
            "its last will",
        )

    def test_a_connection_that_rests(self) -> None:
        """While the pace is kept, the broker is not left without a word."""
        self.add(self.url, every_s=30.0)
        self.hear(2)
        self.feeds.start()
        self.wait_for(lambda: self.feeds.states()[0].sent > 0, "the first are sent")
        self.hear(1)
        self.feeds.wake()
        self.wait_for(lambda: self.feeds.states()[0].state == "keeping the pace", "it rests")
        self.assertEqual("online", self.state_now())

    def test_test(self) -> None:
        """A message that is no reading."""
        collector = self.collector()
        self.add(self.url, topic="cave/{wire}/{quantity}")
        self.assertRegex(self.feeds.test("out"), "acknowledged by 127.0.0.1 after .* cave/test")
        self.wait_for(lambda: any(r.topic == "cave/test" for r in collector.messages), "it comes")
        self.assertEqual([], readings(collector))

    def test_test_beside_a_feed_at_work(self) -> None:
        """To the broker it is somebody else: the feed goes on, and is still said to be here."""
        self.add(self.url)
        self.feeds.start()
        self.all_sent()
        worker = self.feeds._workers["out"]
        with mock.patch.object(worker, "_told") as told:
            self.assertIn("acknowledged", self.feeds.test("out"))
            self.hear(2)
            self.all_sent()
        told.assert_not_called()
        self.assertEqual("online", self.state_now())

    def test_nobody_there(self) -> None:
        """One sentence."""
        self.add(self.url)
        self.broker.kill()
        with self.assertRaisesRegex(FeedTrouble, "cannot be reached .*refused"):
            self.feeds.test("out")


class Guarded(FeedTest):
    """Users, passwords, and certificates of an authority of our own."""

    def certificates(self) -> Path:
        """An authority, a server's and a client's certificate, by openssl."""
        folder = self.folder / "tls"
        folder.mkdir()

        def run(*words: str) -> None:
            subprocess.run(["openssl", *words], check=True, cwd=folder, capture_output=True)

        new = "-newkey ec -pkeyopt ec_paramgen_curve:P-256 -nodes"
        made = f"req -x509 {new} -days 2 -keyout ca.key -out ca.crt -subj /CN=cave"
        run(*made.split())
        (folder / "names").write_text("subjectAltName=IP:127.0.0.1\n")
        for name in ("server", "client"):
            request = f"req {new} -keyout {name}.key -out {name}.csr"
            run(*request.split(), "-subj", f"/CN={name}")
            sign = f"x509 -req -in {name}.csr -CA ca.crt -CAkey ca.key -CAcreateserial -days 2"
            run(*sign.split(), "-extfile", "names", "-out", f"{name}.crt")
        return folder

    def test_certificates(self) -> None:
        """An encrypted connection with a client's certificate; without it, a sentence."""
        folder = self.certificates()
        broker = Broker(
            self.folder,
            f"cafile {folder}/ca.crt\ncertfile {folder}/server.crt\nkeyfile {folder}/server.key\n"
            "require_certificate true\nuse_identity_as_username true\n",
        )
        self.addCleanup(broker.kill)

        def prepared(client: paho.Client) -> None:
            context = ssl.create_default_context(cafile=str(folder / "ca.crt"))
            context.load_cert_chain(folder / "client.crt", folder / "client.key")
            client.tls_set_context(context)

        collector = Collector(broker, prepared)
        self.addCleanup(collector.close)
        url = f"mqtts://127.0.0.1:{broker.port}"
        ca = str(folder / "ca.crt")
        mine = {"cert": str(folder / "client.crt"), "cert_key": str(folder / "client.key")}
        self.add(url, ca=ca, **mine)
        self.hear(5)
        self.feeds.start()
        self.wait_for(lambda: len(readings(collector)) == 10, "readings come")
        self.feeds.remove("out")
        self.add(url, ca=ca)
        with self.assertRaises(FeedTrouble):
            self.feeds.test("out")
        self.feeds.remove("out")
        self.add(url, **mine)
        with self.assertRaisesRegex(FeedTrouble, "certificate"):
            self.feeds.test("out")
        self.feeds.remove("out")
        self.add(url, ca=str(folder / "nothing.crt"))
        with self.assertRaisesRegex(FeedTrouble, "certificates cannot be used"):
            self.feeds.test("out")

    def test_passwords_and_rights(self) -> None:
        """From the environment, never in the bench; what may not be published is said."""
        passwords, rights = self.folder / "passwords", self.folder / "rights"
        program = shutil.which("mosquitto_passwd", path="/usr/bin:/usr/local/bin")
        assert program is not None
        words = [program, "-c", "-b", str(passwords), "cellar", "sesame"]
        subprocess.run(words, check=True, capture_output=True)
        rights.write_text("user cellar\ntopic write pivet/#\n")
        broker = Broker(
            self.folder, f"allow_anonymous false\npassword_file {passwords}\nacl_file {rights}\n"
        )
        self.addCleanup(broker.kill)
        url = f"mqtt://127.0.0.1:{broker.port}"
        self.add(url, user="cellar", secret="env:PIVET_BROKER")
        with self.assertRaisesRegex(InputError, "PIVET_BROKER is not set"):
            self.feeds.test("out")
        refused = self.assertRaisesRegex(FeedTrouble, "refuses the connection .*check user")
        with mock.patch.dict(os.environ, {"PIVET_BROKER": "wrong"}), refused:
            self.feeds.test("out")
        with mock.patch.dict(os.environ, {"PIVET_BROKER": "sesame"}):
            self.assertIn("acknowledged", self.feeds.test("out"))
            self.assertNotIn("sesame", feed_rows(self.bench)[0].setup)
            self.feeds.remove("out")
            self.add(url, user="cellar", secret="env:PIVET_BROKER", topic="other/{wire}")
            with self.assertRaisesRegex(FeedTrouble, "refuses a message .*may publish"):
                self.feeds.test("out")


KILLED = """
import sys, time
from pathlib import Path
from pivet.feeds.feeds import Feeds
from pivet.files.benchfile.store import BenchFile
feeds = Feeds(BenchFile.open(Path(sys.argv[1])))
feeds.start()
while not feeds.states()[0].sent:
    time.sleep(0.005)
print("sends", flush=True)
time.sleep(60)
"""
"""Begins to send, and is killed."""
