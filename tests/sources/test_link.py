"""The probe link: stuffing, frames, messages, and a host that misses nothing unnoticed."""

import contextlib
import re
from pathlib import Path
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from pivet.signal import varint
from pivet.signal.trace import Level
from pivet.sources.ask import Ask
from pivet.sources.link import messages as msg
from pivet.sources.link.clock import Clocks
from pivet.sources.link.cobs import stuff, unstuff
from pivet.sources.link.frames import FrameReader, crc16, frame_bytes
from pivet.sources.link.host import Heard, LinkHost, Why, packed_steps, unpacked_steps
from tests.base import WRITABLE, PivetTest

DOC = Path(__file__).parents[2] / "docs" / "probe-link.md"

bytes_ = st.binary(max_size=700)
byte = st.integers(0, 255)
word = st.integers(0, 2**32 - 1)
levels = st.sampled_from(Level)
names = st.text(WRITABLE, max_size=20)

messages = st.one_of(
    st.builds(msg.Hello, byte, byte),
    st.builds(msg.AskLine, byte),
    st.builds(msg.Configure, byte, st.booleans()),
    st.builds(msg.Listen, word),
    st.builds(msg.Ask, byte, byte, st.sampled_from(msg.Drive), bytes_),
    st.just(msg.HostBeat()),
    st.builds(
        msg.IAm,
        st.just(msg.MAJOR),
        byte,
        st.integers(0, 65535),
        st.integers(1, 2**32 - 1),
        st.integers(0, 32),
        *[st.integers(0, 65535)] * 3,
        names,
    ),
    st.builds(msg.LineIs, byte, st.sampled_from(msg.Can), levels, st.booleans(), names),
    st.builds(msg.Done, byte),
    st.builds(msg.Refused, byte, st.sampled_from(msg.Reason)),
    st.builds(
        msg.ProbeBeat,
        st.integers(0, 2**56),
        word,
        st.dictionaries(st.integers(0, 31), st.integers(0, 65535)),
    ),
    st.builds(msg.Asked, byte, byte, levels, st.integers(0, 65535), word, word),
    st.builds(msg.Lost, byte, levels, word, word, word),
    st.builds(msg.AskStamps, byte),
    st.builds(msg.Stamps, byte, word, word, word),
)


class Bytes(PivetTest):
    """Stuffing, numbers, CRC, frames."""

    def test_stuffing_of_the_paper(self) -> None:
        """Known examples, the block of full length among them."""
        for data, stuffed in (
            ("", "01"),
            ("00", "0101"),
            ("0000", "010101"),
            ("11220033", "0311220233"),
            ("11000000", "0211010101"),
        ):
            self.assertEqual(stuffed, stuff(bytes.fromhex(data)).hex())
        full = bytes(range(1, 255))
        self.assertEqual(b"\xff" + full, stuff(full)[:255])

    @given(bytes_)
    def test_stuffing_comes_back(self, data: bytes) -> None:
        """Any bytes, without a zero, and no longer than it must be."""
        stuffed = stuff(data)
        self.assertNotIn(0, stuffed)
        self.assertLessEqual(len(stuffed), len(data) + len(data) // 254 + 2)
        self.assertEqual(data, unstuff(stuffed))

    @given(bytes_)
    def test_unstuffing_takes_anything(self, data: bytes) -> None:
        """Nothing makes it raise."""
        unstuff(data)

    def test_crc_of_the_catalogue(self) -> None:
        """The check value of CRC-16/IBM-3740."""
        self.assertEqual(0x29B1, crc16(b"123456789"))

    @given(st.lists(st.tuples(byte, st.binary(max_size=600)), max_size=8), st.data())
    def test_any_pieces_give_the_same_frames(
        self, sent: list[tuple[int, bytes]], data: st.DataObject
    ) -> None:
        """Frames with noise before them, cut anywhere."""
        stream = b"\x07noise\0"
        for number, (kind, payload) in enumerate(sent):
            stream += frame_bytes(kind, number, payload)
        reader, found, at = FrameReader(), [], 0
        while at < len(stream):
            size = data.draw(st.integers(1, 300))
            found += reader.feed(stream[at : at + size])
            at += size
        self.assertEqual(sent, [(row.kind, row.payload) for row in found])
        self.assertEqual((1, 0), (reader.damaged, reader.missing))

    @given(st.binary(min_size=1, max_size=60), st.data())
    def test_damage_is_noticed(self, payload: bytes, data: st.DataObject) -> None:
        """One byte that is wrong never gives a frame with another content."""
        good = frame_bytes(0x85, 3, payload)
        at = data.draw(st.integers(0, len(good) - 2))
        wrong = bytes([*good[:at], good[at] ^ data.draw(st.integers(1, 255)), *good[at + 1 :]])
        reader = FrameReader()
        self.assertEqual([], [row for row in reader.feed(wrong) if row.payload != payload])

    def test_endless_noise_is_passed_over(self) -> None:
        """Without zeros memory stays bounded, and the next frame is found."""
        reader = FrameReader()
        for _ in range(50):
            self.assertEqual([], list(reader.feed(b"\x55" * 1000)))
        self.assertLess(len(reader._held), 4000)
        found = list(reader.feed(b"\0" + frame_bytes(1, 0, b"x")))
        self.assertEqual([b"x"], [row.payload for row in found])
        self.assertGreaterEqual(reader.skipped_bytes, 48_000)


class Messages(PivetTest):
    """Every message and its bytes."""

    @given(messages)
    def test_messages_come_back(self, message: msg.HostMessage | msg.ProbeMessage) -> None:
        """From a message to bytes and back."""
        self.assertEqual(message, type(message).unpack(message.pack()))

    @given(st.lists(st.tuples(st.integers(1, 90_000), st.booleans()), max_size=60))
    def test_edges_come_back(self, rows: list[tuple[int, bool]]) -> None:
        """Distances, and those of which only the most is known."""
        between = np.array([width for width, _ in rows], dtype=np.int64)
        loose = np.array([unknown for _, unknown in rows], dtype=np.bool_)
        edges = msg.Edges(3, Level.LOW, 7, 99, 4, between, loose)
        found = msg.Edges.unpack(edges.pack())
        self.assertEqual(between.tolist(), found.between.tolist())
        self.assertEqual(loose.tolist(), found.loose.tolist())
        offsets = found.offsets
        self.assertTrue((np.diff(offsets) >= 1).all())
        latest = np.concatenate(([0], np.cumsum(between)))
        self.assertEqual(latest[1:][~loose].tolist(), offsets[1:][~loose].tolist())
        self.assertTrue((offsets <= latest).all())

    def test_a_mark_stands_before_a_distance(self) -> None:
        """Two in a row, or one at the end, make no sense."""
        head = msg.Edges(0, Level.LOW, 0, 5, 3, np.array([7])).pack()
        for tail in (b"\0", b"\0\0\5"):
            with self.assertRaises(msg.Malformed):
                msg.Edges.unpack(head + tail)
        self.assertEqual([7, 5], msg.Edges.unpack(head + b"\0\5").between.tolist())

    @given(st.sampled_from([*msg.FROM_HOST.values(), *msg.FROM_PROBE.values()]), bytes_)
    def test_any_payload(self, kind: type[msg.ProbeMessage], data: bytes) -> None:
        """Any bytes are a message, or malformed; nothing else happens."""
        with contextlib.suppress(msg.Malformed):
            kind.unpack(data)

    def test_kinds_are_apart(self) -> None:
        """Host's kinds are below 0x80, the probe's above."""
        self.assertTrue(all(kind < 0x80 for kind in msg.FROM_HOST))
        self.assertTrue(all(kind >= 0x80 for kind in msg.FROM_PROBE))

    @given(st.lists(st.integers(1, 70_000), min_size=1, max_size=200))
    def test_steps_come_back(self, steps: list[int]) -> None:
        """With runs or without."""
        ask = Ask("dq", tuple(steps * 2))
        self.assertEqual(list(ask.steps_us), unpacked_steps(packed_steps(ask), 10_000))

    @given(bytes_)
    def test_any_steps(self, data: bytes) -> None:
        """Any bytes are bounded steps, or none."""
        steps = unpacked_steps(data, 500)
        self.assertTrue(steps is None or 0 < len(steps) <= 500)

    def test_what_no_probe_need_remember(self) -> None:
        """Runs of runs, of more than stands written, of too much, and steps of too long."""
        for numbers, steps in (
            ((6, 64, 0, 2, 2), [6, 64] * 3),
            ((6, 64, 0, 2, 2, 9), [*[6, 64] * 3, 9]),
            ((500_000,), [500_000]),
            ((500_001,), None),
            ((6, 64, 0, 3, 1), None),
            ((6, 64, 0, 2, 1, 0, 2, 1), None),
            ((*range(1, 10), 0, 9, 1), None),
            ((*range(1, 9), 0, 8, 1), [*range(1, 9)] * 2),
            ((0, 1, 1), None),
        ):
            with self.subTest(numbers):
                self.assertEqual(steps, unpacked_steps(varint.packed(numbers), 100))

    def test_read_slots_are_a_run(self) -> None:
        """72 read slots take a handful of bytes: the memory of a probe is small."""
        self.assertLess(len(packed_steps(Ask("dq", (6, 64) * 72))), 10)

    def test_vectors_of_the_document(self) -> None:
        """docs/probe-link.md: its frames are what this code writes and reads."""
        rows = re.findall(r"^\| `([0-9a-f ]+)` \| (\w+) \| `(.*)` \|$", DOC.read_text(), re.M)
        self.assertGreaterEqual(len(rows), 12)
        seen = set()
        for text, name, content in rows:
            stream = bytes.fromhex(text)
            (frame,) = FrameReader().feed(stream)
            kind = (msg.FROM_HOST | msg.FROM_PROBE)[frame.kind]
            self.assertEqual(name, kind.__name__)
            message = kind.unpack(frame.payload)
            self.assertEqual(content, shown(message), name)
            self.assertEqual(stream, frame_bytes(kind.KIND, frame.number, message.pack()))
            seen.add(kind)
        self.assertEqual({*msg.FROM_HOST.values(), *msg.FROM_PROBE.values()}, seen)


def shown(message: Any) -> str:
    """A message as the document writes it."""
    parts = []
    for name in message.__struct_fields__:
        value = getattr(message, name)
        if isinstance(value, bytes):
            value = value.hex()
        elif isinstance(value, np.ndarray):
            value = value.tolist()
            if name == "loose" and not any(value):
                continue
        elif isinstance(value, int):
            value = int(value)
        parts.append(f"{name}={value}")
    return " ".join(parts)


class TwoClocks(PivetTest):
    """How far the host is ahead of its probe."""

    def test_the_quickest_beat_counts(self) -> None:
        """Others were under way for longer; after a probe's clock has gone slowly the newest."""
        clocks = Clocks()
        self.assertIsNone(clocks.ahead_ns)
        for probe_s, host_s in ((1.0, 11.0), (2.0, 12.004), (3.0, 13.1)):
            clocks.beat(round(probe_s * 1e9), round(host_s * 1e9))
            self.assertEqual(10_000_000_000, clocks.ahead_ns)
        clocks.beat(4_000_000_000, 14_200_000_000)
        self.assertEqual(10_000_000_000, clocks.ahead_ns)
        clocks.beat(5_000_000_000, 15_200_000_001)
        self.assertEqual(10_200_000_001, clocks.ahead_ns)


class Runs(PivetTest):
    """Steps that repeat."""

    def test_from_three_on(self) -> None:
        """Two times stand written out, three are a run."""
        for times, size in ((2, 4), (3, 5), (9, 5)):
            data = packed_steps(Ask("x", (60, 10) * times))
            self.assertEqual(size, len(data), times)
            self.assertEqual([60, 10] * times, unpacked_steps(data, 2 * times))

    def test_as_many_as_fit(self) -> None:
        """As many steps as are promised, and not one more, however they are written."""
        for numbers, steps in (((60, 10, 0, 2, 3), 8), ((5, 0, 1, 7), 8), ((1, 2, 3), 3)):
            data = varint.packed(numbers)
            self.assertEqual(steps, len(unpacked_steps(data, steps) or ()))
            self.assertIsNone(unpacked_steps(data, steps - 1))


class Host(PivetTest):
    """What a host makes of a probe's messages."""

    def listening(self, lines: int = 1) -> LinkHost:
        """A host that wants to hear lines."""
        host = LinkHost()
        number, _ = host.pack(msg.Listen(lines))
        # What is told of a line before that is of an earlier listener.
        edges = msg.Edges(0, Level.LOW, 7, 5, 3, np.array([7]))
        list(host.feed(frame_bytes(msg.Edges.KIND, 254, edges.pack())))
        list(host.feed(frame_bytes(msg.Done.KIND, 255, msg.Done(number).pack())))
        return host

    @given(
        st.lists(st.integers(1, 4000), min_size=1, max_size=120), st.integers(0, 2**40), st.data()
    )
    def test_nothing_is_lost_unnoticed(
        self, widths: list[int], begin: int, data: st.DataObject
    ) -> None:
        """Frames drop out anywhere: what arrives is true, and the rest is counted in gaps."""
        ticks = begin + 1 + np.cumsum(widths)
        host, stream, number = self.listening(), [], 0

        def send(kind: int, payload: bytes) -> None:
            nonlocal number
            stream.append(frame_bytes(kind, number % 256, payload))
            number += 1

        send(msg.ProbeBeat.KIND, msg.ProbeBeat(begin, 0, {0: 0}).pack())
        at = 0
        while at < ticks.size:
            size = data.draw(st.integers(1, 40))
            part = ticks[at : at + size]
            first = int(part[0]) & 0xFFFF_FFFF
            edges = msg.Edges(0, Level((at + 1) & 1), at, first, 0, np.diff(part))
            send(msg.Edges.KIND, edges.pack())
            at += part.size
        end = int(ticks[-1]) + 5
        last = msg.ProbeBeat(end, ticks.size & 1, {0: ticks.size})
        lost = data.draw(st.sets(st.integers(1, max(len(stream) - 1, 1))))
        kept = [row for place, row in enumerate(stream) if place == 0 or place not in lost]
        send(msg.ProbeBeat.KIND, last.pack())
        heard = [row for row in host.feed(b"".join([*kept, stream[-1]])) if isinstance(row, Heard)]
        arrived = np.concatenate([row.ticks for row in heard])
        self.assertTrue(np.isin(arrived, ticks).all())
        gaps = [row.gap for row in heard[1:] if row.gap is not None]
        self.assertEqual(ticks.size - arrived.size, sum(gap.count or 0 for gap in gaps))
        for gap in gaps:
            self.assertIs(Why.LINK, gap.why)
            self.assertFalse(((arrived > gap.since) & (arrived <= gap.until)).any())
        missing = ticks[~np.isin(ticks, arrived)]
        self.assertTrue(
            all(any(gap.since < row <= gap.until for gap in gaps) for row in missing.tolist())
        )
        self.assertEqual(end, heard[-1].known_until)

    def test_the_first_that_is_heard(self) -> None:
        """By a beat or by edges: from there on the line is known, and nothing was lost."""
        beat = frame_bytes(msg.ProbeBeat.KIND, 0, msg.ProbeBeat(100, 1, {0: 0}).pack())
        edges = msg.Edges(0, Level.HIGH, 3, 200, 5, np.array([7]))
        for stream, since in ((beat, 100), (frame_bytes(msg.Edges.KIND, 0, edges.pack()), 199)):
            host = self.listening()
            self.assertEqual(0, host.malformed)
            (heard,) = [row for row in host.feed(stream) if isinstance(row, Heard)]
            gap = heard.gap
            assert gap is not None
            self.assertEqual((since, since, 0), (gap.since, gap.until, gap.count))
            self.assertIs(Why.BEGIN, gap.why)

    def test_ticks_wrap(self) -> None:
        """Beyond 2^32 ticks time goes on."""
        host = self.listening()
        near = 2**32 - 10
        stream = frame_bytes(msg.ProbeBeat.KIND, 0, msg.ProbeBeat(near, 1, {0: 0}).pack())
        edges = msg.Edges(0, Level.LOW, 0, 5, 3, np.array([7]))
        stream += frame_bytes(msg.Edges.KIND, 1, edges.pack())
        heard = [row for row in host.feed(stream) if isinstance(row, Heard)]
        self.assertEqual([2**32 + 5, 2**32 + 12], heard[-1].ticks.tolist())
        self.assertEqual(2**32 + 15, heard[-1].known_until)

    def test_a_pulse_that_nobody_measured(self) -> None:
        """It is there, somewhere before the latest that it can have been, and counted."""
        host = self.listening()
        stream = frame_bytes(msg.ProbeBeat.KIND, 0, msg.ProbeBeat(50, 1, {0: 0}).pack())
        loose = np.array([True, False])
        edges = msg.Edges(0, Level.LOW, 0, 100, 9, np.array([12, 200]), loose)
        stream += frame_bytes(msg.Edges.KIND, 1, edges.pack())
        heard = [row for row in host.feed(stream) if isinstance(row, Heard)][-1]
        self.assertEqual([100, 106, 312], heard.ticks.tolist())
        self.assertEqual((1, 321, None), (heard.loose, heard.known_until, heard.gap))

    def test_overflow_is_told(self) -> None:
        """A probe whose memory was full says so, with the number."""
        host = self.listening()
        stream = frame_bytes(msg.ProbeBeat.KIND, 0, msg.ProbeBeat(100, 1, {0: 0}).pack())
        stream += frame_bytes(msg.Lost.KIND, 1, msg.Lost(0, Level.LOW, 200, 900, 17).pack())
        heard = [row for row in host.feed(stream) if isinstance(row, Heard)]
        gap = heard[-1].gap
        assert gap is not None
        self.assertEqual((17, Why.PROBE, 900), (gap.count, gap.why, gap.until))

    @given(st.lists(st.one_of(bytes_, messages.map(lambda row: row)), max_size=12))
    def test_anything_may_arrive(self, parts: list[object]) -> None:
        """Noise and messages in any order: nothing raises, time never goes back within a line."""
        host = self.listening(0xFFFF_FFFF)
        until: dict[int, int] = {}
        for number, part in enumerate(parts):
            data = part if isinstance(part, bytes) else framed(part, number)
            for row in host.feed(data):
                if isinstance(row, Heard):
                    self.assertGreaterEqual(row.known_until, until.get(row.line, 0))
                    self.assertTrue((np.diff(row.ticks) > 0).all())
                    until[row.line] = row.known_until


def framed(message: object, number: int) -> bytes:
    """A message in a frame."""
    return frame_bytes(message.KIND, number % 256, message.pack())  # type: ignore[attr-defined]
