"""Readings to a broker: MQTT 5 (OASIS), a message a reading, acknowledged one by one."""

import contextlib
import secrets
import time
from collections import deque
from collections.abc import Callable, Sequence
from socket import IPPROTO_TCP, TCP_NODELAY
from typing import Any

import paho.mqtt.client as paho
from paho.mqtt.enums import CallbackAPIVersion
from paho.mqtt.packettypes import PacketTypes
from paho.mqtt.properties import Properties
from paho.mqtt.reasoncodes import ReasonCode

from pivet.feeds.message import Json, json_of, reading_object, text_of
from pivet.feeds.outbox import Sent
from pivet.feeds.secret import secret_of
from pivet.feeds.setup import FORM, FeedSetup
from pivet.feeds.template import base_of, topic_of
from pivet.feeds.tls import tls_context
from pivet.feeds.trouble import FeedTrouble, words_of
from pivet.files.benchfile.feeds import Change
from pivet.frozen import FrozenValue

ANSWER_S = 10.0
"""A broker that does not answer for so long is not there."""

KEEP_ALIVE_S = 20
AT_ONCE = 250
UNDER_WAY = 20
"""Messages that may be under way at a time, where the broker does not want fewer."""

PUMP_S = 0.2
"""So long it is waited for the other side at a time."""

MOST_PROPERTIES = 500
STATE = "state"
HERE, AWAY = "online", "offline"
FAILED = 0x80
"""Reason codes from here on are failures (MQTT 5, 2.4)."""


class _Message(FrozenValue):
    topic: str
    payload: str
    retain: bool
    said: tuple[tuple[str, str], ...] = ()


class _Packed(Properties):
    """Properties of a message, packed once: the same few go with thousands of them."""

    _bytes = b""

    def __init__(self) -> None:
        make: Any = super().__init__
        make(PacketTypes.PUBLISH)

    def pack(self) -> bytes:
        """As they stand in the message."""
        if not self._bytes:
            make: Any = super().pack
            # Properties take nothing that MQTT does not know.
            object.__setattr__(self, "_bytes", make())
        return self._bytes


class MqttSender:
    """Publishes readings; the connection has no thread of its own.

    One connection a try: what was not acknowledged when it breaks is sent again by whoever
    calls, so the broker gets everything in order, some of it twice.

    Args:
        setup: of the feed.
        name: the name of the feed, which the test message says.
    """

    at_once = AT_ONCE
    most_wait_s = 1.0

    def __init__(self, setup: FeedSetup, name: str) -> None:
        self._setup, self._name = setup, name
        self._units = setup.unit_choice
        self._state_topic = f"{base_of(setup.topic)}/{STATE}"
        self._client: paho.Client | None = None
        self._answer: str | None = None
        self._lost: str | None = None
        self._refused = ""
        self._most = UNDER_WAY
        # Who only tests is somebody else to the broker, beside the feed that may be at work.
        self._tests = False
        self._acked: set[int] = set()
        self._newest: dict[tuple[str, str], str] = {}
        self._topics: dict[tuple[str, str, str, str], str] = {}
        self._properties: dict[tuple[tuple[str, str], ...], Properties] = {}

    def open(self) -> None:
        """Connects; see ``Sender.open``.

        Raises:
            FeedTrouble: the broker is not there, or refuses.
            InputError: the password is not there.
        """
        if self._client is not None:
            return
        client = self._made()
        self._answer, self._lost, self._refused = None, None, ""
        self._acked.clear()
        where = f"{self._setup.host}:{self._setup.port}"
        try:
            client.connect(self._setup.host, self._setup.port, KEEP_ALIVE_S, clean_start=True)
        except (OSError, ValueError) as error:
            raise FeedTrouble(f"{where} cannot be reached ({words_of(error)})") from error
        self._client = client
        socket: Any = client.socket()
        if socket is not None:
            # Messages are small, and each waits for its answer: none waits to be filled up.
            socket.setsockopt(IPPROTO_TCP, TCP_NODELAY, 1)
        self._pump_until(lambda: self._answer is not None)
        self._check_answer(where)
        if not self._tests:
            self._publish_alone(_Message(self._state_topic, HERE, retain=True))

    def _check_answer(self, where: str) -> None:
        says = self._answer
        if says is None:
            lost = self._lost
            self._drop()
            raise FeedTrouble(f"{where} does not answer as a broker does{_because(lost)}")
        if says:
            self._drop()
            raise FeedTrouble(
                f"{where} refuses the connection ({says})", "check user, password and certificate"
            )

    def _made(self) -> paho.Client:
        setup = self._setup
        client = paho.Client(
            CallbackAPIVersion.VERSION2,
            client_id=f"pivet-{secrets.token_hex(6) if self._tests else setup.id[:12]}",
            protocol=paho.MQTTv5,
            reconnect_on_failure=False,
        )
        client.connect_timeout = ANSWER_S / 2
        client.max_inflight_messages_set(UNDER_WAY)
        if not self._tests:
            client.will_set(self._state_topic, AWAY, qos=1, retain=True)
        if setup.user or setup.secret:
            client.username_pw_set(setup.user or None, secret_of(setup) or None)
        if setup.tls:
            client.tls_set_context(tls_context(setup))
        client.on_connect, client.on_disconnect = self._on_connect, self._on_disconnect
        client.on_publish = self._on_publish
        return client

    # Called while the connection is looked after.

    def _on_connect(
        self, _client: paho.Client, _data: Any, _flags: Any, code: ReasonCode, properties: Any
    ) -> None:
        most = getattr(properties, "ReceiveMaximum", UNDER_WAY)
        self._most = max(1, min(UNDER_WAY, most))
        self._answer = str(code) if code.is_failure else ""

    def _on_disconnect(
        self, _client: paho.Client, _data: Any, _flags: Any, code: ReasonCode, _properties: Any
    ) -> None:
        self._lost = str(code)

    def _on_publish(
        self, _client: paho.Client, _data: Any, mid: int, code: ReasonCode, _properties: Any
    ) -> None:
        if code.value >= FAILED:
            self._refused = str(code)
        else:
            self._acked.add(mid)

    # What the feed asks for.

    def know(self, rows: Sequence[Sent]) -> None:
        """A correction of what is older than these is never kept as the last value.

        Args:
            rows: as the outbox made them.
        """
        for sent in rows:
            self._is_newest(sent)

    def send(self, rows: Sequence[Sent]) -> int:
        """Publishes rows; see ``Sender.send``.

        Args:
            rows: as the outbox made them, at least one.

        Raises:
            FeedTrouble: not all arrived.
        """
        self.open()
        under_way: deque[tuple[int, int]] = deque()
        try:
            for place, row in enumerate(rows):
                for message in self._messages(row):
                    if len(under_way) >= self._most:
                        self._settle(under_way, self._most // 2)
                    under_way.append((self._publish(message), place))
            self._settle(under_way, 0)
        except FeedTrouble as trouble:
            trouble.arrived = under_way[0][1] if under_way else 0
            raise
        return len(rows)

    def _settle(self, under_way: deque[tuple[int, int]], most: int) -> None:
        """Waits until so few messages are under way."""
        while len(under_way) > most:
            first = under_way[0][0]
            if first not in self._acked:
                self._pump_until(lambda first=first: first in self._acked)  # type: ignore[misc]
                self._check(first in self._acked)
            self._acked.discard(first)
            under_way.popleft()

    def _pump_until(self, wanted: Callable[[], bool]) -> None:
        """Looks after the connection until something is so, it breaks, or the time is over."""
        assert self._client is not None
        until = time.monotonic() + ANSWER_S
        while not wanted() and self._lost is None and not self._refused:
            if time.monotonic() >= until:
                return
            if self._client.loop(PUMP_S) != paho.MQTT_ERR_SUCCESS and self._lost is None:
                self._lost = ""

    def _check(self, arrived: bool) -> None:
        host = self._setup.host
        if self._refused:
            says = self._refused
            self._drop()
            raise FeedTrouble(
                f"{host} refuses a message ({says})", "check what this user may publish"
            )
        if self._lost is not None:
            says = self._lost
            self._drop()
            raise FeedTrouble(f"the connection to {host} broke{_because(says)}")
        if not arrived:
            self._drop()
            raise FeedTrouble(f"{host} has not acknowledged for {ANSWER_S:.0f} s")

    def _publish_alone(self, message: _Message) -> None:
        under_way = deque([(self._publish(message), 0)])
        self._settle(under_way, 0)

    def _publish(self, message: _Message) -> int:
        client = self._client
        if client is None:
            raise FeedTrouble(f"there is no connection to {self._setup.host}")
        info = client.publish(
            message.topic,
            message.payload,
            self._setup.qos,
            message.retain,
            self._properties_of(message.said),
        )
        if info.rc in (paho.MQTT_ERR_CONN_LOST, paho.MQTT_ERR_NO_CONN):
            self._lost = self._lost or ""
            self._check(arrived=False)
        if info.rc != paho.MQTT_ERR_SUCCESS:
            self._drop()
            raise FeedTrouble(f"a message cannot be sent ({paho.error_string(info.rc)})")
        return info.mid

    def _properties_of(self, said: tuple[tuple[str, str], ...]) -> Properties:
        found = self._properties.get(said)
        if found is None:
            found = _Packed()
            found.PayloadFormatIndicator = 1
            if said:
                found.UserProperty = list(said)
                if self._setup.expiry_s:
                    found.MessageExpiryInterval = self._setup.expiry_s
                if not self._setup.plain:
                    found.ContentType = "application/json"
            if len(self._properties) >= MOST_PROPERTIES:
                self._properties.clear()
            self._properties[said] = found
        return found

    def _messages(self, sent: Sent) -> list[_Message]:
        row = sent.row
        newest = self._is_newest(sent)
        found = []
        for cell in row.cells:
            said = reading_object(self._setup.id, sent, cell, self._units)
            payload = text_of(said["value"]) if self._setup.plain else json_of(said)
            found.append(
                _Message(
                    self._topic(row.wire, row.role, row.device, cell.quantity),
                    payload,
                    self._setup.retain and newest,
                    _user_properties(said),
                )
            )
        return found

    def _is_newest(self, sent: Sent) -> bool:
        """A correction of an older reading must not stand where the last one is kept."""
        key, time_text = (sent.row.wire, sent.row.device), sent.row.time
        last = self._newest.get(key, "")
        self._newest[key] = max(last, time_text)
        return sent.change is Change.NEW or last <= time_text

    def _topic(self, wire: str, role: str, device: str, quantity: str) -> str:
        key = (wire, role, device, quantity)
        if key not in self._topics:
            names = {
                "wire": wire,
                "device": role or device,
                "who": role or device,
                "role": role,
                "code": device,
                "quantity": quantity.replace(" ", "-"),
            }
            self._topics[key] = topic_of(self._setup.topic, names)
        return self._topics[key]

    def look(self) -> None:
        """Looks after the connection, which breaks when nobody does.

        Raises:
            FeedTrouble: the broker is gone.
        """
        self.open()
        assert self._client is not None
        if self._client.loop(0.0) != paho.MQTT_ERR_SUCCESS or self._lost is not None:
            self._lost = self._lost or ""
            self._check(arrived=True)

    def test(self, row: Sent) -> str:
        """Publishes a message below ``test``; says how long the broker took.

        Args:
            row: what may stand in it.

        Raises:
            FeedTrouble: it did not arrive.
        """
        begun, self._tests = time.monotonic(), True
        self.open()
        topic = f"{base_of(self._setup.topic)}/test"
        said = {"form": FORM, "test": True, "feed": self._name, "time": row.row.time}
        self._publish_alone(_Message(topic, json_of(said), False, (("test", "true"),)))
        took = (time.monotonic() - begun) * 1000
        return f"acknowledged by {self._setup.host} after {took:.0f} ms, on the topic {topic}"

    def close(self) -> None:
        """Says that nobody is here any more, and goes."""
        if self._client is None:
            return
        with contextlib.suppress(FeedTrouble):
            if not self._tests:
                self._publish_alone(_Message(self._state_topic, AWAY, retain=True))
            self._drop("Normal disconnection")
        self._drop()

    def _drop(self, leave: str = "Disconnect with will message") -> None:
        """Ends the connection; the broker says that nobody is here, but for a normal end."""
        client, self._client = self._client, None
        if client is not None:
            client.on_disconnect = None
            client.disconnect(ReasonCode(PacketTypes.DISCONNECT, leave))
            client.loop(0.0)


def _user_properties(said: Json) -> tuple[tuple[str, str], ...]:
    names = ("unit", "verdict", "reason", "correction")
    return tuple((name, text_of(said[name])) for name in names if said.get(name))


def _because(says: str | None) -> str:
    return f" ({says})" if says else ""
