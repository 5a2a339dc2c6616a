"""Fuzzing: whatever a file holds, reading it gives a trace or one sentence."""

import numpy as np
from hypothesis import example, given, settings
from hypothesis import strategies as st

from pivet.captures.capture import capture_of
from pivet.errors import InputError
from pivet.files.edge_csv import parse_csv
from pivet.files.vcd import parse_vcd
from pivet.judge.verdict import Verdict
from pivet.signal.trace import Level, Line, Trace
from tests.base import CAPTURES, PivetTest, decode, decode_line, humidity_wire
from tests.decode.frames import edge_trains

VCD = (CAPTURES / "av_dht22.vcd").read_bytes()[:3000]
CSV = (CAPTURES / "csv_edges_dht22.csv").read_bytes()

VCD_WORDS = """
# #5 #7 #12 0! 1! x! z! 0 1 ! b b0 b01 bx r1.5 r $ $end $comment $dumpoff $dumpon $dumpvars
$dumpall $var wire 8 # reg $timescale 1 ns 0" 1" bb b! $enddefinitions
"""
vcd_words = st.sampled_from([*VCD_WORDS.split(), "\n", "\r\n"])
csv_words = st.sampled_from(
    [*'0123456789.,;-+eE\n\r\t"# xzHL', "nan", "inf", "time_s,a\n", "1e", ";;"]
)


@st.composite
def mutated(draw: st.DrawFn, content: bytes) -> bytes:
    """A real file with some bytes changed, taken out, doubled or put in."""
    data = bytearray(content)
    for _ in range(draw(st.integers(1, 6))):
        at = draw(st.integers(0, len(data) - 1))
        kind = draw(st.integers(0, 3))
        if kind == 0:
            data[at] = draw(st.integers(0, 255))
        elif kind == 1:
            del data[at : at + draw(st.integers(1, 40))]
        elif kind == 2:
            data[at:at] = data[at : at + draw(st.integers(1, 40))]
        else:
            data[at:at] = draw(st.binary(max_size=8))
        if not data:
            return b""
    return bytes(data)


def well_formed(trace: Trace) -> bool:
    """Edges rise and lie inside the trace."""
    return all(
        bool((np.diff(line.edges_ns) > 0).all())
        and (not line.edges_ns.size or line.edges_ns[0] >= trace.start_ns)
        and (not line.edges_ns.size or line.edges_ns[-1] <= trace.end_ns)
        for line in trace.lines
    )


class Readers(PivetTest):
    """Never another exception than InputError, never a malformed trace."""

    def check(self, parse, content: bytes) -> None:
        """Reads and decodes whatever can be read."""
        try:
            trace = parse(content, "fuzz")
        except InputError as error:
            self.assertRegex(str(error), r"^fuzz.*\.$|^no .* fuzz .*\.$")
            self.assertLess(len(str(error)), 400)
            return
        self.assertTrue(well_formed(trace))
        for wire in capture_of(self.folder / "fuzz", trace).wires:
            for number in range(len(wire)):
                wire.report(number)

    @given(mutated(VCD))
    @settings(max_examples=40)
    def test_mutated_vcd(self, content: bytes) -> None:
        """A real VCD with faults."""
        self.check(parse_vcd, content)

    @given(st.lists(vcd_words, max_size=40))
    @settings(max_examples=40)
    def test_words_of_vcd(self, words: list[str]) -> None:
        """VCD words in any order behind a head."""
        head = '$timescale 1 us $end $var wire 1 ! d $end $var reg 1 " e $end '
        head += "$var reg 8 b v $end $enddefinitions $end "
        self.check(parse_vcd, (head + " ".join(words)).encode())

    @given(st.binary(max_size=400))
    @settings(max_examples=40)
    def test_noise(self, content: bytes) -> None:
        """Any bytes for both readers."""
        self.check(parse_vcd, b"$enddefinitions $end" + content)
        self.check(parse_vcd, content)
        self.check(parse_csv, content)

    @given(mutated(CSV))
    @settings(max_examples=40)
    def test_mutated_csv(self, content: bytes) -> None:
        """A real CSV with faults."""
        self.check(parse_csv, content)

    @given(st.lists(csv_words, max_size=80))
    @settings(max_examples=40)
    @example(["0", ",", ",", "\t"])
    @example(["\r", "0", ","])
    @example(['"\n\n"', ",", "\n", "\n", "0", ",", "1"])
    def test_words_of_csv(self, words: list[str]) -> None:
        """Numbers, marks and delimiters in any order."""
        self.check(parse_csv, "".join(words).encode())


class Noise(PivetTest):
    """Noise is never called sound."""

    @given(edge_trains(), st.sampled_from(list(Level)), st.sampled_from([1, 1000, 20_000, 10**11]))
    @settings(max_examples=40)
    def test_no_sound_verdict(self, edges, initial: Level, resolution_ns: int) -> None:
        """Any edges, judged as any sensor and reported: never sound, never an exception."""
        end = int(edges[-1]) + 10**9 if edges.size else 10**9
        line = Line("a", initial, edges)
        trace = Trace((line,), 0, end, resolution_ns)
        for sensor in (None, "dht22", "dht11", "dht11-early"):
            self.judge_all(trace, sensor)

    def judge_all(self, trace: Trace, sensor: str | None) -> None:
        """Every exchange of the line, as one sensor."""
        from pivet.sheets.load import find_sheet

        line = trace.lines[0]
        found = decode(line.edges_ns, trace.end_ns, (), line.initial)
        wire = humidity_wire(line, trace, found, None if sensor is None else find_sheet(sensor))
        for number in range(len(wire)):
            report = wire.report(number)
            self.assertIsNot(report.verdict, Verdict.SOUND)
            self.assertTrue(report.findings)

    def test_random_pulses_of_a_frame(self) -> None:
        """Ten thousand frames of random pulse lengths: none is sound."""
        random = np.random.default_rng(11)
        widths = random.uniform(20, 90, (10_000, 86))
        widths[:, 0] = 2_100_000
        widths[:, 1] = 1000
        edges = np.round(np.cumsum(widths.ravel()) * 1000).astype(np.int64)
        trace = Trace((Line("a", Level.HIGH, edges),), 0, int(edges[-1]) + 10**9, 100)

        wire = humidity_wire(trace.lines[0], trace, decode_line(trace.lines[0], trace), None)
        self.assertEqual(0, wire.count(Verdict.SOUND))
