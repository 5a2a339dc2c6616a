"""The humidity decoder: frames, cuts, chunks, spikes, clocks, noise."""

import numpy as np
from hypothesis import example, given, settings
from hypothesis import strategies as st

from pivet.decode.humidity import DecodeMark, HumidityDecoder, layout
from pivet.decode.humidity.columns import join
from pivet.signal.trace import Level
from tests.base import PivetTest, decode
from tests.decode.frames import edge_trains, edges_from, frame_widths, payloads, with_sum
from tests.physics import humidity

FRAME = with_sum(bytes.fromhex("039c0076"))
MS = 1_000_000


def two_exchanges() -> np.ndarray:
    """Two whole frames two seconds apart."""
    first = edges_from(frame_widths(FRAME), 20_000.0)
    second = edges_from(frame_widths(with_sum(bytes.fromhex("028c015f"))), 2_020_000.0)
    return np.concatenate((first, second))


class WholeFrames(PivetTest):
    """A frame that is whole comes back as it was sent."""

    def test_worked_frames_of_the_domain(self) -> None:
        """The worked bytes of both types come out of their pulses."""
        for text in ("028c015fee", "3500180451"):
            with self.subTest(text):
                edges = edges_from(frame_widths(bytes.fromhex(text)), 100.0)
                found = decode(edges, int(edges[-1]) + 200 * MS)
                self.assertEqual(1, len(found))
                self.assertEqual(text, found.packed[:, 0].tobytes().hex())
                self.assertEqual(layout.PULSES, found.pulse_count[0])
                self.assertEqual(int(edges[0]), found.start_ns[0])
                self.assertEqual(int(edges[-1]), found.end_ns[0])

    @given(payloads, st.floats(0.85, 1.15), st.floats(0.0, 6.0))
    @settings(max_examples=40)
    @example(b"\0\0\0\0", 0.85, 0.0)
    @example(b"\xff\xff\xff\xff", 1.15, 0.0)
    @example(b"\xff\xff\xff\xff", 1.0, 6.0)
    def test_clock_and_rise(self, payload: bytes, clock: float, rise_us: float) -> None:
        """A clock off by 15 % and a slow rise change no bit."""
        data = with_sum(payload)
        edges = edges_from(frame_widths(data, clock=clock, rise_us=rise_us), 50.0)
        found = decode(edges, int(edges[-1]) + 200 * MS)
        self.assertEqual(data.hex(), found.packed[:, 0].tobytes().hex())

    def test_times_of_pulses(self) -> None:
        """Each pulse starts where its edge stands."""
        edges = edges_from(frame_widths(FRAME), 777.0)
        found = decode(edges, int(edges[-1]) + 200 * MS)
        np.testing.assert_array_equal(edges[1:-1], found.pulse_starts_ns(0))


class Cuts(PivetTest):
    """Frames that end too soon, and captures that begin or end inside one."""

    def test_cut_short_at_any_edge(self) -> None:
        """Cut after any edge, the bits that came whole are still right."""
        edges = edges_from(frame_widths(FRAME), 100.0)
        bits = np.unpackbits(np.frombuffer(FRAME, dtype=np.uint8))
        for keep in range(2, edges.size + 1, 2):
            with self.subTest(keep):
                found = decode(edges[:keep], int(edges[keep - 1]) + 500 * MS)
                self.assertEqual(1, len(found))
                whole = min(max(0, (keep - 5) // 2), 40)
                self.assertEqual(whole, found.bit_count[0])
                self.assertEqual(0, found.marks[0])
                if whole > 8:
                    np.testing.assert_array_equal(bits[:whole], found.bits(0))

    def test_capture_ends_at_any_edge(self) -> None:
        """A capture that ends inside an exchange says so and invents nothing."""
        edges = edges_from(frame_widths(FRAME), 20_000.0)
        for keep in range(1, edges.size):
            with self.subTest(keep):
                found = decode(edges[:keep], int(edges[keep - 1]) + 12_000)
                self.assertEqual(1, len(found))
                self.assertTrue(found.marks[0] & DecodeMark.CAPTURE_ENDED)

    def test_capture_begins_inside_the_bits(self) -> None:
        """Bits without a beginning are no exchange; they are counted as strays."""
        edges = two_exchanges()
        for skip in range(5, 80):
            with self.subTest(skip):
                initial = Level.HIGH if skip % 2 == 0 else Level.LOW
                found = decode(
                    edges[skip:], int(edges[-1]) + 200 * MS, (), initial, int(edges[skip]) - 5000
                )
                self.assertEqual([int(edges[86])], found.start_ns.tolist())
                self.assertEqual(1, found.stray_edges.size)

    def test_capture_begins_inside_the_ask(self) -> None:
        """The answer is read, the ask is marked as clipped."""
        edges = edges_from(frame_widths(FRAME), 20_000.0)
        for clipped_us in (5, 200, 700):
            with self.subTest(clipped_us):
                start = int(edges[1]) - clipped_us * 1000
                found = decode(edges[1:], int(edges[-1]) + 200 * MS, (), Level.LOW, start)
                self.assertEqual(FRAME, found.packed[:, 0].tobytes())
                self.assertEqual(DecodeMark.ASK_CLIPPED, found.marks[0])
                self.assertEqual(start, found.start_ns[0])

    def test_line_low_until_the_supply_comes_up(self) -> None:
        """A low at the start that nobody answers is no exchange."""
        edges = np.concatenate(([300 * MS], edges_from(frame_widths(FRAME), 1_300_000.0)))
        end = int(edges[-1]) + 200 * MS
        found = decode(edges, end, (), Level.LOW)
        self.assertEqual([int(edges[1])], found.start_ns.tolist())
        self.assertEqual(1, found.stray_edges.size)
        self.assert_same_exchanges(found, decode(edges, end, (1, 2, 40), Level.LOW))

    def test_capture_begins_in_the_release(self) -> None:
        """The answer is read although its ask is unseen."""
        edges = edges_from(frame_widths(FRAME), 20_000.0)
        found = decode(edges[2:], int(edges[-1]) + 200 * MS, (), Level.HIGH, int(edges[2]) - 9000)
        self.assertEqual(FRAME, found.packed[:, 0].tobytes())
        self.assertEqual(DecodeMark.ASK_UNSEEN, found.marks[0])
        self.assertEqual(-1, found.widths_ns[layout.RELEASE, 0])
        self.assertEqual(0, found.ask_ns[0])


class Course(PivetTest):
    """No answer, late answers, asks in a hurry, long runs."""

    def test_no_answer(self) -> None:
        """An ask alone is an exchange without pulses."""
        edges = edges_from([1000.0], 100.0)
        found = decode(edges, int(edges[-1]) + 500 * MS)
        self.assertEqual((1, 0), (len(found), int(found.pulse_count[0])))

    def test_short_ask_without_answer(self) -> None:
        """Even 18 µs (for 18 ms) count as an ask out of an idle line."""
        edges = edges_from([18.0], 10_000.0)
        self.assertEqual([18_000], decode(edges, 600 * MS).ask_ns.tolist())

    def test_disturbance_is_no_ask(self) -> None:
        """A low of 4 µs out of an idle line is a stray, not an ask."""
        edges = edges_from([4.0], 10_000.0)
        found = decode(edges, 600 * MS)
        self.assertEqual((0, [2]), (len(found), found.stray_edges.tolist()))

    def test_late_answer_belongs_to_its_ask(self) -> None:
        """An answer that comes 2 to 90 ms after the release is put behind its ask."""
        for release_us in (1500.0, 20_000.0, 90_000.0):
            widths = frame_widths(FRAME)
            widths[1] = release_us
            edges = edges_from(widths, 100.0)
            found = decode(edges, int(edges[-1]) + 500 * MS)
            self.assertEqual(1, len(found))
            self.assertEqual(FRAME, found.packed[:, 0].tobytes())
            self.assertEqual(release_us * 1000, found.widths_ns[layout.RELEASE, 0])

    def test_answer_much_too_late_stands_alone(self) -> None:
        """Beyond that the ask has no answer, and the answer no ask."""
        widths = frame_widths(FRAME)
        widths[1] = 150_000.0
        edges = edges_from(widths, 100.0)
        found = decode(edges, int(edges[-1]) + 500 * MS)
        self.assertEqual([0, DecodeMark.ASK_UNSEEN], found.marks.tolist())
        self.assertEqual(FRAME, found.packed[:, 1].tobytes())

    def test_asks_right_behind_each_other(self) -> None:
        """The next ask 300 µs after the end begins the next exchange."""
        one = edges_from(frame_widths(FRAME), 100.0)
        two = edges_from(frame_widths(FRAME), one[-1] / 1000 + 300.0)
        found = decode(np.concatenate((one, two)), int(two[-1]) + 200 * MS)
        self.assertEqual([84, 84], found.pulse_count.tolist())
        self.assertEqual(FRAME, found.packed[:, 1].tobytes())

    def test_ask_into_the_answer(self) -> None:
        """A host that asks into a frame cuts it; both exchanges are told."""
        widths = frame_widths(FRAME)[:40]
        edges = edges_from([*widths, *frame_widths(FRAME)], 100.0)
        found = decode(edges, int(edges[-1]) + 200 * MS)
        self.assertEqual(2, len(found))
        self.assertEqual(17, found.bit_count[0])
        self.assertEqual(FRAME, found.packed[:, 1].tobytes())

    def test_recovery_after_noise(self) -> None:
        """After a long run of noise the next frame is found."""
        random = np.random.default_rng(3)
        noise = np.cumsum(random.integers(3000, 120_000, 9000))
        frame = edges_from(frame_widths(FRAME), noise[-1] / 1000 + 30_000.0)
        edges = np.concatenate((noise, frame))
        found = decode(edges, int(edges[-1]) + 200 * MS)
        self.assertEqual(FRAME, found.packed[:, -1].tobytes())

    def test_too_many_pulses_are_counted(self) -> None:
        """Pulses behind the end are counted."""
        edges = edges_from([*frame_widths(FRAME), 30.0, 40.0, 30.0, 40.0], 100.0)
        found = decode(edges, int(edges[-1]) + 200 * MS)
        self.assertEqual(layout.PULSES + 4, found.pulse_count[0])

    def test_line_held_low(self) -> None:
        """A line that stays low is one long ask."""
        found = decode(np.array([5 * MS]), 900 * MS)
        self.assertEqual(895 * MS, found.ask_ns[0])
        self.assertTrue(found.marks[0] & DecodeMark.CAPTURE_ENDED)


class Spikes(PivetTest):
    """Spikes are taken out, recorded, and change no bit."""

    @given(st.integers(1, 84), st.integers(50, 1999), st.floats(0.1, 0.9))
    @settings(max_examples=40)
    def test_spike_in_any_pulse(self, pulse: int, width_ns: int, share: float) -> None:
        """A spike inside any pulse leaves the frame as it was."""
        clean = edges_from(frame_widths(FRAME), 20_000.0)
        left, right = int(clean[pulse]), int(clean[pulse + 1])
        at = left + 2100 + round(share * (right - left - width_ns - 4300))
        edges = np.insert(clean, pulse + 1, [at, at + width_ns])
        found = decode(edges, int(edges[-1]) + 200 * MS)
        self.assertEqual(FRAME, found.packed[:, 0].tobytes())
        starts, widths = found.spikes_in(0)
        self.assertEqual(([at], [width_ns]), (starts.tolist(), widths.tolist()))

    def test_bouncing_edge(self) -> None:
        """An edge that bounces counts from its first fall."""
        clean = edges_from(frame_widths(FRAME), 20_000.0)
        bounce = int(clean[10])
        edges = np.insert(clean, 11, [bounce + 300, bounce + 700])
        found = decode(edges, int(edges[-1]) + 200 * MS)
        self.assert_same_frame(found, clean)
        self.assertEqual([bounce], found.spike_start_ns.tolist())

    def assert_same_frame(self, found, clean) -> None:
        """The pulses are those of the clean frame."""
        np.testing.assert_array_equal(clean[1:-1], found.pulse_starts_ns(0))


class Chunks(PivetTest):
    """Any way of cutting a stream gives the same exchanges."""

    def test_late_answers(self) -> None:
        """However late the answers come, and whenever somebody looks while they do not come."""
        data = humidity.frame_22(65.3, -11.8)
        for late_us in (30.0, 30_000.0, 99_000.0, 100_000.0, 100_000.1, 150_000.0):
            rows = [humidity.exchange(data, 2.1e6 * n, release=late_us) for n in range(1, 4)]
            edges = np.round(1000 * np.concatenate(rows)).astype(np.int64)
            end = int(edges[-1]) + 200 * MS
            whole = decode(edges, end)
            for cut in (1, 2, 3, 4, 85, 86, 87, 88, 89, 90, 171, 172, 173, 174):
                before, gap = int(edges[cut - 1]), int(edges[cut] - edges[cut - 1])
                for share in (0.0, 0.5, 0.99):
                    decoder = HumidityDecoder(Level.HIGH, 0)
                    parts = [
                        decoder.feed((edges[:cut],), before + int(share * gap)),
                        decoder.feed((edges[cut:],), end),
                        decoder.finish(),
                    ]
                    self.assert_same_exchanges(whole, join(parts))

    @given(edge_trains(), st.sampled_from(list(Level)), st.data())
    @settings(max_examples=40)
    def test_any_edges_cut_anywhere(self, edges, initial: Level, data: st.DataObject) -> None:
        """Any edges: one by one, or cut at random, as whole; and nothing raises."""
        end = int(edges[-1]) + data.draw(st.integers(0, 200 * MS)) if edges.size else 10
        whole = decode(edges, end, (), initial)
        singles = tuple(range(1, edges.size))
        self.assert_same_exchanges(whole, decode(edges, end, singles, initial))
        cuts = tuple(data.draw(st.lists(st.integers(0, max(edges.size - 1, 0)), max_size=5)))
        self.assert_same_exchanges(whole, decode(edges, end, cuts, initial))
        self.assertTrue((np.diff(whole.start_ns) > 0).all(), "exchanges in order of time")
        self.assertTrue((whole.end_ns >= whole.start_ns).all())

    def test_long_noise_cut_anywhere(self) -> None:
        """A run longer than any frame is cut off at the same place in any pieces."""
        random = np.random.default_rng(5)
        edges = 5 * MS + np.cumsum(random.integers(3000, 120_000, 7_001))
        end = int(edges[-1]) + 200 * MS
        whole = decode(edges, end)
        for step in (7, 997, 5000):
            with self.subTest(step):
                self.assert_same_exchanges(
                    whole, decode(edges, end, tuple(range(step, edges.size, step)))
                )

    def test_quiet_line_is_news(self) -> None:
        """An exchange is given as soon as the line has been quiet long enough."""
        edges = edges_from(frame_widths(FRAME), 20_000.0)
        decoder = HumidityDecoder(Level.HIGH, 0)
        last = int(edges[-1])
        self.assertEqual(0, len(decoder.feed((edges,), last + layout.IDLE_NS - 1)))
        none = np.empty(0, dtype=np.int64)
        self.assertEqual(1, len(decoder.feed((none,), last + layout.IDLE_NS)))
        self.assertEqual(0, len(decoder.finish()))
