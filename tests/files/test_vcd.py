"""VCD files: what real programs write, and back; what the standard allows: see texts.toml."""

import io
from unittest import mock

import numpy as np
from hypothesis import example, given, settings
from hypothesis import strategies as st
from vcd import VCDWriter
from vcd.reader import TokenKind, tokenize

from pivet.errors import InputError
from pivet.files import vcd_body, vcd_plain
from pivet.files.captures import read_capture, write_capture
from pivet.files.vcd import parse_vcd
from pivet.files.vcd_write import SCOPE, vcd_names, write_vcd
from pivet.signal.trace import Level, Line, Trace
from tests.base import CAPTURES, WRITABLE, PivetTest

HEAD = "$timescale {} $end $scope module tb $end $var wire 1 ! d $end $upscope $end "
HEAD += "$enddefinitions $end\n"


def read(body: str, scale: str = "1 us") -> Trace:
    """A file with one wire ``tb.d`` and this body."""
    return parse_vcd((HEAD.format(scale) + body).encode(), "t.vcd")


LINES = st.sampled_from(["1!", "0!", "x!", "z!", '1"', '0"', "b1 #", "1#", "1%", "#", ""])
"""Changes of two wires and of a vector, codes that nobody declared, stamps that are none."""

STEPS = st.lists(
    st.tuples(st.integers(-1, 12), st.lists(LINES, max_size=3)), min_size=1, max_size=12
)


class Plain(PivetTest):
    """The quick way of reading says what reading word by word says."""

    HEAD = (
        '$timescale 1 us $end $var wire 1 ! a $end $var wire 1 " b $end '
        "$var reg 4 # c $end $enddefinitions $end\n"
    )

    def outcome(self, text: str) -> object:
        """What is read of a file, or what is said of it."""
        try:
            trace = parse_vcd((self.HEAD + text).encode(), "t.vcd")
        except InputError as error:
            return str(error)
        return trace.notes, [
            (line.name, line.initial, line.edges_ns.tolist(), line.notes) for line in trace.lines
        ]

    def same(self, text: str) -> int:
        """Reads a file in both ways; gives how many of its slabs the quick way took."""
        taken: list[bool] = []

        def counted(slab: np.ndarray) -> vcd_plain.Plain | None:
            found = vcd_plain.plain_lines(slab)
            taken.append(found is not None)
            return found

        with mock.patch.object(vcd_body, "plain_lines", counted):
            quick = self.outcome(text)
        with mock.patch.object(vcd_body, "plain_lines", return_value=None):
            self.assertEqual(self.outcome(text), quick)
        return sum(taken)

    @given(STEPS, st.sampled_from(["\n", "\r\n", " "]), st.booleans(), st.integers(8, 60))
    def test_the_same(
        self, steps: list[tuple[int, list[str]]], gap: str, ended: bool, slab: int
    ) -> None:
        """Whatever stands between plain lines, in slabs of any size."""
        words, now = [], 3
        for step, changes in steps:
            now += step
            words += [f"#{now}", *changes]
        text = gap.join(words) + (gap if ended else "")
        with (
            mock.patch.object(vcd_body, "SLAB", slab),
            mock.patch.object(vcd_body, "LONGEST_WORD", slab),
        ):
            self.same(text)

    @given(st.lists(st.sampled_from(["#1", "#23", "#456", "1!", "0!", '1"', "xz"]), min_size=1))
    @example(["#1", "1!", "#23", "#4"])
    @example(["1!", "#1", "0!", "#2"])
    def test_line_by_line(self, lines: list[str]) -> None:
        """Stamps and changes in any order, in turn or not."""
        slab = np.frombuffer("".join(f"{line}\n" for line in lines).encode(), dtype=np.uint8)
        found = vcd_plain.plain_lines(slab)
        stamps = [int(line[1:]) for line in lines if line[0] == "#"]
        changes = [
            (line[0], line[1], sum(other[0] == "#" for other in lines[:at]))
            for at, line in enumerate(lines)
            if line[0] != "#"
        ]
        if not stamps:
            self.assertIsNone(found)
            return
        assert found is not None
        self.assertEqual(stamps, found.stamps.tolist())
        rows = zip(found.value.tolist(), found.code.tolist(), found.stamped.tolist(), strict=True)
        self.assertEqual(changes, [(chr(value), chr(code), number) for value, code, number in rows])

    def test_which_way(self) -> None:
        """One wire, several, stamps without a change: quick; anything else by words."""
        for text, quick in {
            "#1\n1!\n#2\n0!\n#3\n1!\n": True,
            '#1\n1!\n0"\n#2\n0!\n1"\n#9\n': True,
            "#1\n#2\n1!\n#3\n0!\n": True,
            "1!\n#1\n0!\n": True,
            "#1\nx!\n#2\n0!\n#3\n1!\n": True,
            "#1\n1!\n#2\n0!\n#3\n1!": False,
            "#1 1!\n#2\n0!\n": False,
            "#1\n1!\n\n#2\n0!\n": False,
            "#1\nb1 !\n#2\n0!\n": False,
            "1!\n0!\n": False,
            "#1\n1!\n#0\n0!\n": True,
        }.items():
            with self.subTest(text):
                self.assertEqual(int(quick), self.same(text))


class Refused(PivetTest):
    """Bad files give one sentence that names line and remedy."""

    def test_cut_off_anywhere_in_the_changes(self) -> None:
        """A file cut off inside its changes is read up to there."""
        content = (CAPTURES / "iv_dht22_cave.vcd").read_bytes()
        whole = parse_vcd(content, "t.vcd").lines[0].edges_ns.tolist()
        for cut in range(9000, 9100):
            with self.subTest(cut):
                found = parse_vcd(content[:cut], "t.vcd").lines[0].edges_ns.tolist()
                self.assertEqual(whole[: len(found)], found)
                self.assertGreater(len(found), 50)


class Slabs(PivetTest):
    """Where a file is cut into slabs does not matter."""

    def test_any_slab(self) -> None:
        """Real files and awkward codes, read in slabs of a few words."""
        head = "$timescale 1 us $end $var wire 1 ! d $end $var reg 8 b v [7:0] $end "
        head += "$enddefinitions $end "
        body = " ".join(f"#{n} {n % 2}! b{n % 3:b} b $comment b 0! $end" for n in range(1, 400))
        contents = [path.read_bytes() for path in sorted(CAPTURES.glob("iv_*.vcd"))[:3]]
        for content in ((head + body + "\n").encode(), *contents):
            whole = parse_vcd(content, "t.vcd")
            for slab in (150, 211, 999):
                small = mock.patch.multiple(vcd_body, SLAB=slab, LONGEST_WORD=140)
                with self.subTest(slab), small:
                    again = parse_vcd(content, "t.vcd")
                for line, other in zip(whole.lines, again.lines, strict=True):
                    np.testing.assert_array_equal(line.edges_ns, other.edges_ns)


class Oracle(PivetTest):
    """The package's slow tokenizer sees the same as the reader."""

    def test_real_captures(self) -> None:
        """Every file of the collection has the same edges for both."""
        for path in sorted(CAPTURES.glob("*.vcd")):
            with self.subTest(path.name):
                trace = read_capture(path)
                for line, edges in zip(trace.lines, slow_edges(path.read_bytes()), strict=True):
                    np.testing.assert_array_equal(edges, line.edges_ns // trace.resolution_ns)

    @given(st.data())
    def test_written_by_the_package(self, data: st.DataObject) -> None:
        """Random changes of several signals, written by the package."""
        count = data.draw(st.integers(1, 5))
        stream = io.StringIO()
        with VCDWriter(stream, timescale="1 us") as writer:
            names = [writer.register_var("tb", f"n{i}", "wire", size=1) for i in range(count)]
            other = writer.register_var("tb", "v", "reg", size=8)
            t = 0
            for _ in range(data.draw(st.integers(0, 60))):
                t += data.draw(st.integers(0, 9))
                writer.change(
                    names[data.draw(st.integers(0, count - 1))],
                    t,
                    data.draw(st.sampled_from("01xz")),
                )
                writer.change(other, t, data.draw(st.integers(0, 255)))
            writer.change(names[0], t + 1, "1")
            writer.change(names[0], t + 2, "0")
        content = stream.getvalue().encode()
        trace = parse_vcd(content, "t.vcd")
        for line, edges in zip(trace.lines, slow_edges(content), strict=True):
            np.testing.assert_array_equal(edges, line.edges_ns // 1000)


def slow_edges(content: bytes) -> list[np.ndarray]:
    """Edges in stamps of the one-bit signals, by the package's tokenizer and a loop."""
    codes, levels, edges, now, first = {}, {}, {}, None, None
    for token in tokenize(io.BytesIO(content)):
        if (
            token.kind is TokenKind.VAR
            and token.var.size == 1
            and token.var.type_.value not in ("real", "event")
        ):
            codes.setdefault(token.var.id_code, []).append(token.var.reference)
        elif token.kind is TokenKind.CHANGE_TIME:
            now = token.time_change
            first = now if first is None else first
        elif token.kind is TokenKind.CHANGE_SCALAR and token.scalar_change.id_code in codes:
            code = token.scalar_change.id_code
            level = 0 if token.scalar_change.value == "0" else 1
            edges.setdefault(code, []).append((now, level))
    found = []
    for code in codes:
        levels, kept = 1, []
        stamps = {}
        for stamp, level in edges.get(code, []):
            stamps[first if stamp is None else stamp] = level
        for number, (stamp, level) in enumerate(stamps.items()):
            if level != levels and not (number == 0 and stamp == first):
                kept.append(stamp)
            levels = level
        found.append(np.array(kept, dtype=np.int64))
    return found


class RoundTrip(PivetTest):
    """What is written comes back."""

    @given(st.lists(st.text(WRITABLE, max_size=12), min_size=1, max_size=5))
    @example(["Kanal [0]", "Kanal_[0]", "a", "a.b", "x.", ".", "$end", ""])
    @settings(max_examples=40)
    def test_any_names(self, names: list[str]) -> None:
        """Whatever lines are called, the file can be read, and no name stands twice."""
        edges = np.array([5, 9])
        trace = Trace(tuple(Line(name, Level.HIGH, edges) for name in names), 0, 20, 1)
        path = self.folder / "t.vcd"
        write_vcd(trace, path)
        again = [line.name for line in read_capture(path).lines]
        self.assertCountEqual([f"{scope}.{name}" for scope, name in vcd_names(names)], again)
        self.assertEqual(len(names), len(set(again)))

    def test_names(self) -> None:
        """Doubles are numbered from two on; scopes are parts of the name, blanks and $ are not."""
        found = vcd_names(["a.x", "x", "a.x", "a.b.x", "a.x", "a b.c$", "a.x_2"])
        named = ["a x", "SCOPE x", "a x_2", "a.b x", "a x_3", "a_b c_", "a x_2_2"]
        self.assertEqual([row.replace("SCOPE", SCOPE) for row in named], [*map(" ".join, found)])

    @given(
        st.lists(
            st.tuples(st.sampled_from(list(Level)), st.sets(st.integers(1, 10**7), max_size=40)),
            min_size=1,
            max_size=4,
        ),
        st.sampled_from([1, 10, 1000, 250, 24, 10**6]),
        st.sampled_from([0, -3, 5]),
    )
    @example([(Level.LOW, {7, 9})], 10, 5)
    def test_any_trace(self, rows, resolution_ns: int, start: int) -> None:
        """Levels, edges, ends and resolution come back, also of times before zero."""
        lines = [
            Line(
                f"cave.n{i}",
                level,
                (np.array(sorted(times), dtype=np.int64) + start) * resolution_ns,
            )
            for i, (level, times) in enumerate(rows)
        ]
        lines.append(Line("cave.last", Level.HIGH, np.array([6 * resolution_ns])))
        trace = Trace(
            tuple(lines), start * resolution_ns, (10**7 + 9) * resolution_ns, resolution_ns
        )
        path = self.folder / "t.vcd"
        write_vcd(trace, path)
        again = read_capture(path)
        self.assertEqual((trace.start_ns, trace.end_ns), (again.start_ns, again.end_ns))
        self.assertEqual(resolution_ns, again.resolution_ns)
        for line, other in zip(trace.lines, again.lines, strict=True):
            self.assertEqual((line.name, line.initial), (other.name, other.initial))
            np.testing.assert_array_equal(line.edges_ns, other.edges_ns)


class Sampled(PivetTest):
    """Stamps in finer units than the recorder looked."""

    def test_the_step_is_told(self) -> None:
        """The capture has the step, and says so; without one it stays as it is written."""
        counts = np.cumsum([0, *([3, 4, 5, 9] * 8)])
        for step_ns, told in ((12_500, "12.5 µs"), (20_000, "20.0 µs"), (1, None)):
            edges = counts * step_ns if told else counts * 997 + counts**2
            line = Line("d", Level.HIGH, edges.astype(np.int64))
            path = self.folder / f"{step_ns}.vcd"
            write_capture(Trace((line,), 0, int(edges[-1]) + 10**6, 1), path)
            trace = read_capture(path)
            with self.subTest(step_ns):
                self.assertEqual(step_ns, trace.resolution_ns)
                says = f"in steps of {told}, though they are written in 1 ns"
                self.assertEqual(told is not None, says in " ".join(trace.notes))
