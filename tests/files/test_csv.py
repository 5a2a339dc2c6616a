"""Edge CSV: samples, what is too large, and back; how programs write it stands in texts.toml."""

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


class Resolution(PivetTest):
    """Decimals of an edge list, period of samples."""

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

    def test_giant_line(self) -> None:
        """Five million characters without a line end are refused at once."""
        giant = "1" * 5_000_000
        for text in ("9" * 5_000_000, f"time_s,a\n0,1\n{giant},0\n"):
            with self.assertRaises(InputError):
                read(text)
        rows = "".join(f"{n},{n % 2}\n" for n in range(1_100_000))
        with self.assertRaisesRegex(InputError, "line 1100002, is over four million"):
            read(f"time_us,a\n{rows}{giant},0\n")

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
