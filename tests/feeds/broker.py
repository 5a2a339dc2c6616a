"""A real broker, and somebody who takes everything from it."""

import contextlib
import secrets
import shutil
import socket
import subprocess
import time
from pathlib import Path

import paho.mqtt.client as paho
from paho.mqtt.enums import CallbackAPIVersion
from paho.mqtt.packettypes import PacketTypes
from paho.mqtt.properties import Properties

from tests.patience import PATIENCE_S


def free_port() -> int:
    """A port that nobody uses."""
    with socket.socket() as one:
        one.bind(("127.0.0.1", 0))
        return int(one.getsockname()[1])


class Broker:
    """A broker at a port of this computer, which can be killed and started again.

    Args:
        folder: for its settings.
        more: lines of its settings; the port is left to it.
    """

    def __init__(self, folder: Path, more: str = "allow_anonymous true\n") -> None:
        self.port, self._settings = free_port(), folder / "broker.conf"
        # It keeps sessions and what waits for them, as a broker in use does.
        kept = f"persistence true\npersistence_location {folder}/\nmax_queued_messages 100000\n"
        # As root it would become a user who cannot read a test's own folder.
        self._settings.write_text(f"user root\nlistener {self.port} 127.0.0.1\n{kept}{more}")
        self._process: subprocess.Popen[bytes] | None = None
        self.start()

    def start(self) -> None:
        """Starts it, and waits until it listens."""
        program = shutil.which("mosquitto", path="/usr/sbin:/usr/bin:/usr/local/sbin")
        assert program is not None, "the Debian package mosquitto is missing"
        self._process = subprocess.Popen(
            [program, "-c", str(self._settings)],
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )
        until = time.monotonic() + PATIENCE_S
        while time.monotonic() < until:
            with socket.socket() as one:
                if one.connect_ex(("127.0.0.1", self.port)) == 0:
                    return
            time.sleep(0.02)
        raise AssertionError("the broker did not start")

    def stop(self) -> None:
        """Ends it in order: it keeps what waits for somebody."""
        if self._process is not None:
            self._process.terminate()
        self.kill(after_s=PATIENCE_S)

    def kill(self, after_s: float = 0.0) -> None:
        """Ends it as a power cut does, unless it ends by itself in a time, s."""
        if self._process is not None:
            with contextlib.suppress(subprocess.TimeoutExpired):
                self._process.wait(after_s)
            self._process.kill()
            self._process.wait()
            self._process = None


class Collector:
    """Takes everything that a broker has, also after it was away.

    Args:
        broker: whose messages.
        prepare: gives the client user, password or certificates.
    """

    def __init__(self, broker: Broker, prepare: object = None) -> None:
        self.messages: list[paho.MQTTMessage] = []
        client = paho.Client(
            CallbackAPIVersion.VERSION2, client_id=secrets.token_hex(4), protocol=paho.MQTTv5
        )
        if callable(prepare):
            prepare(client)
        self.subscribed = 0
        client.reconnect_delay_set(1, 1)
        client.on_connect = lambda one, *_: one.subscribe("#", qos=1)
        client.on_subscribe = self._on_subscribe
        client.on_message = lambda _client, _data, message: self.messages.append(message)
        session = Properties(PacketTypes.CONNECT)
        session.SessionExpiryInterval = 3600
        client.connect("127.0.0.1", broker.port, clean_start=False, properties=session)
        client.loop_start()
        self.client = client
        self.wait(1)

    def _on_subscribe(self, *_: object) -> None:
        self.subscribed += 1

    def wait(self, times: int) -> None:
        """Until it has subscribed so many times."""
        until = time.monotonic() + PATIENCE_S
        while self.subscribed < times and time.monotonic() < until:
            time.sleep(0.02)
        assert self.subscribed >= times

    def close(self) -> None:
        """Takes no more."""
        self.client.disconnect()
        self.client.loop_stop()
