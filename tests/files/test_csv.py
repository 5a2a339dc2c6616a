"""Edge CSV: every way in which programs write it, and back."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from pivet.errors import InputError
from pivet.files.captures import read_capture
from pivet.files.edge_csv import parse_csv, write_csv
from pivet.signal.trace import Level, Line, Trace
from tests.base import PivetTest


def read(text: str) -> Trace:
    """A CSV with this text."""
    return parse_csv(text.encode(), "t.csv")


class Shapes(PivetTest):
    """Names, units, delimiters, decimal marks."""

    def test_units_in_the_head(self) -> None:
        """The time column's head names the unit in any of the usual ways."""
        heads = {
            "time_s": 1e9,
            "Time [s]": 1e9,
            "Time (ms)": 1e6,
            "t / µs": 1e3,
            "t_us": 1e3,
            "timestamp_ns": 1,
            "Zeit [ms]": 1e6,
            "Microseconds": 1e3,
            "time": 1e9,
            "Time(us)": 1e3,
        }
        for head, unit_ns in heads.items():
            with self.subTest(head):
                trace = read(f"{head},level\n0,1\n2,0\n5,1\n")
                self.assertEqual([2 * unit_ns, 5 * unit_ns], trace.lines[0].edges_ns.tolist())

    def test_no_unit_is_said(self) -> None:
        """Without a unit seconds are assumed, and the notes say so."""
        self.assertIn("seconds were assumed", read("0,1\n1,0\n").notes[0])

    def test_delimiters_and_decimal_marks(self) -> None:
        """Comma, semicolon and tab; point and comma; quotes; blanks; CRLF; BOM."""
        texts = (
            "time_s,a\n0.5,1\n1.5,0\n",
            "time_s;a\n0,5;1\n1,5;0\n",
            "time_s;a\r\n0.5;1\r\n1.5;0\r\n",
            "time_s\ta\n0,5\t1\n1,5\t0\n",
            '"time_s","a"\n"0.5","1"\n"1.5","0"\n',
            '"time_s","a"\n"0,5","1"\n"1,5","0"\n',
            "time_s , a\n 0.5 , 1\n 1.5 , 0 \n",
            "\ufefftime_s,a\n0.5,1\n1.5,0\n",
            "# made up\n\ntime_s,a\n0.5,1\n\n# later\n1.5,0\n",
            "time_s,a,\n0.5,1,\n1.5,0,\n",
            "time_s,a\n5e-1,1\n1.5E0,0\n",
            "time_s,a\n+.5,1\n1.5,0",
            "time_s,a\r0.5,1\r1.5,0\r",
        )
        for text in texts:
            with self.subTest(text):
                trace = read(text)
                self.assertEqual([1_500_000_000], trace.lines[0].edges_ns.tolist())
                self.assertEqual(
                    (Level.HIGH, 500_000_000), (trace.lines[0].initial, trace.start_ns)
                )

    def test_several_lines_and_words_for_levels(self) -> None:
        """Each level column is a line with its own name."""
        trace = read("time_ms,a,b,b\n0,H,0,1\n1,L,1,1.0\n2,x,TRUE,0\n")
        self.assertEqual(["a", "b", "b 3"], [line.name for line in trace.lines])
        found = [(line.edges_ns / 1e6).tolist() for line in trace.lines]
        self.assertEqual([[1, 2], [1], [2]], found)
        self.assertIn("x or z taken as high in column a", trace.notes)

    def test_times_before_zero(self) -> None:
        """A trigger may stand in the middle of the file."""
        trace = read("time_s,a\n-0.002,1\n-0.001,0\n0,1\n")
        self.assertEqual([-1_000_000, 0], trace.lines[0].edges_ns.tolist())

    def test_clock_times_are_exact(self) -> None:
        """Seconds since 1970 keep their nanoseconds."""
        trace = read("time_s,a\n1790000000.000000001,1\n1790000000.000000003,0\n")
        self.assertEqual([1_790_000_000_000_000_003], trace.lines[0].edges_ns.tolist())


class Resolution(PivetTest):
    """Decimals of an edge list, period of samples."""

    def test_decimals(self) -> None:
        """The last decimal of an edge list is its resolution."""
        for decimals, step_ns in ((3, 10**6), (6, 1000), (7, 100), (9, 1), (12, 1)):
            with self.subTest(decimals):
                trace = read(f"time_s,a\n{0:.{decimals}f},1\n{1:.{decimals}f},0\n")
                self.assertEqual(step_ns, trace.resolution_ns)

    def test_samples(self) -> None:
        """One row a sample: the period is the resolution, and the last one counts in full."""
        rows = "".join(f"{n * 0.00025:.5f},{int(n % 8 < 5)}\n" for n in range(64))
        trace = read("time_s,a\n" + rows)
        self.assertEqual(250_000, trace.resolution_ns)
        self.assertEqual(64 * 250_000, trace.end_ns)

    def test_even_edges_are_no_samples(self) -> None:
        """A square wave's edges are as even as samples; but each row is a change."""
        rows = "".join(f"{n * 0.00025:.5f},{n % 2}\n" for n in range(64))
        self.assertEqual(10_000, read("time_s,a\n" + rows).resolution_ns)


class Refused(PivetTest):
    """Bad rows give one sentence with the line."""

    def test_sentences(self) -> None:
        """Each fault is named with its line."""
        cases = {
            "time_s,a\n0,1\nsoon,0\n1,1\n": "line 3, has the time 'soon', which is no number",
            "time_s,a\n0,1\nnan,0\n1,1\n": "line 3, has the time 'nan'",
            "time_s,a\n0,1\ninf,0\n1,1\n": "line 3, has the time 'inf'",
            "time_s,a\n0,1\n\n2,0\n1,1\n3,0\n": "line 5, is earlier than the row before",
            "time_s,V\n0,3.29\n1,0.01\n": "line 2, has '3.29' in column 'V'",
            "time_s,a\n0,1\n1\n2,0\n": "line 3, has not the 2 columns",
            "time_s,a\n0,1\n1,0,1\n2,0\n": "line 3, has not the 2 columns",
            "time_s,a\n0,1\n1e30,0\n2,0\n": "line 3, has the time",
            "time_s,a\n0,1\n99999999999,0\n": "beyond 146 years",
            "time_s,a\n0,1\n1,1\n": "no line in t.csv ever changes",
            "hello\nworld\n": "no row of a time and levels",
            "a,b\n\0,1\n": "is a binary file",
        }
        for text, part in cases.items():
            with self.subTest(text), self.assertRaises(InputError) as caught:
                read(text)
            self.assertIn(part, str(caught.exception))

    def test_giant_line(self) -> None:
        """Five million characters without a line end are refused at once."""
        for text in ("9" * 5_000_000, "time_s,a\n0,1\n" + "1" * 5_000_000 + ",0\n"):
            with self.assertRaises(InputError):
                read(text)

    def test_last_row_cut_off(self) -> None:
        """A last row that is not whole is passed over, and that is said."""
        trace = read("time_s,a,b\n0,1,0\n1,0,1\n2,1")
        self.assertEqual(1, trace.lines[0].edges_ns.size)
        self.assertIn("its last row is not whole", trace.notes[0])

    def test_line_numbers_far_down(self) -> None:
        """The line is right behind several slabs too."""
        rows = "".join(f"{n},{n % 2}\n" for n in range(900_000))
        with self.assertRaises(InputError) as caught:
            read("time_us,a\n" + rows + "oops,1\n900001,0\n")
        self.assertIn("line 900002,", str(caught.exception))


class RoundTrip(PivetTest):
    """What is written comes back."""

    @given(
        st.lists(
            st.tuples(st.sampled_from(list(Level)), st.sets(st.integers(1, 10**7), max_size=40)),
            min_size=1,
            max_size=3,
        ),
        st.sampled_from([1, 10, 100, 10**6, 10**9]),
    )
    def test_any_trace(self, rows, step_ns: int) -> None:
        """Levels, edges, ends and a resolution that is a power of ten come back."""
        lines = [
            Line(f"n{i}", level, np.array(sorted(times), dtype=np.int64) * step_ns)
            for i, (level, times) in enumerate(rows)
        ]
        lines.append(Line("last", Level.HIGH, np.array([5 * step_ns])))
        trace = Trace(tuple(lines), -step_ns, (10**7 + 3) * step_ns, step_ns)
        path = self.folder / "t.csv"
        write_csv(trace, path)
        again = read_capture(path)
        self.assertEqual(
            (trace.start_ns, trace.end_ns, step_ns),
            (again.start_ns, again.end_ns, again.resolution_ns),
        )
        for line, other in zip(trace.lines, again.lines, strict=True):
            self.assertEqual((line.name, line.initial), (other.name, other.initial))
            np.testing.assert_array_equal(line.edges_ns, other.edges_ns)
