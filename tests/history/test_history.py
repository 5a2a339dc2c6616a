"""Readings over time: from a bench file and from a capture alike; tables that others open."""

import io
import math
from collections import Counter
from datetime import UTC, datetime
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np

from pivet.bench.export import write_table
from pivet.captures.capture import Capture, capture_of
from pivet.errors import InputError
from pivet.files.benchfile.store import BenchFile
from pivet.files.readings_table import Form
from pivet.frozen import replace
from pivet.history.growing import Growing
from pivet.history.open import capture_histories, open_readings
from pivet.history.recorded import KeptHistory
from pivet.history.reliability import reliability
from pivet.history.sentences import day_text, margin_text, whole_moment, worst_hour
from pivet.history.series import all_series
from pivet.person.annotations import NOTHING, Mark, Reference, read_annotations, write_annotations
from pivet.person.roles import NO_ROLES
from pivet.readings.correction import by_offset, by_points
from pivet.readings.limits import Limit
from pivet.readings.series import Sensor, Series
from pivet.standin.long_night import WET_FROM_S
from tests.base import PivetTest
from tests.night import BEGAN_NS, copy_of_night, night_file, night_trace

SHELF = Sensor("shelf_A", "", "humidity")
HOUR_NS = 3600 * 10**9


@cache
def night_capture() -> Capture:
    """The night as a capture."""
    return capture_of(Path("night.vcd"), night_trace())


def series_of(path: Path) -> dict[Sensor, Series]:
    """The series of a file."""
    with open_readings(path, NO_ROLES) as found:
        return {row.sensor: row for row in found.series()}


class FileAndBench(PivetTest):
    """The same night, as a capture and as a bench file."""

    def test_the_same_readings(self) -> None:
        """Values, gaps, reasons, verdicts and numbers are the same; times by the calendar."""
        capture = night_capture()
        heard = {row.sensor: row for row in all_series(capture_histories(capture), NO_ROLES, {})}
        kept = series_of(night_file())
        roles = {"brine", "wheel 1, core", "wheel 2, core", "wheel 3, core"}
        self.assertLessEqual(roles, {sensor.who for sensor in kept})
        compared = 0
        for sensor, row in heard.items():
            if sensor not in kept or sensor.wire == "brine_vat":
                continue
            other = kept[sensor]
            compared += 1
            np.testing.assert_array_equal(row.number, other.number)
            np.testing.assert_array_equal(row.values, other.values)
            np.testing.assert_array_equal(row.verdict, other.verdict)
            np.testing.assert_array_equal(row.times_ns + BEGAN_NS, other.times_ns)
            self.assertEqual(
                [row.reasons[at] for at in row.why], [other.reasons[at] for at in other.why]
            )
        self.assertGreaterEqual(compared, 10)

    def test_margins_are_kept(self) -> None:
        """Those in the file are those that the capture has, to a thousandth."""
        capture = night_capture()
        heard = {row.name: row.margin for row in capture_histories(capture)}
        with open_readings(night_file(), NO_ROLES) as found:
            for row in found.histories:
                if row.name != "brine_vat":
                    expected = np.maximum(heard[row.name], -30)
                    np.testing.assert_allclose(row.margin, expected, atol=6e-4)

    def test_growing(self) -> None:
        """Read while it is written: what was taken stays, what is new is added."""
        bench = BenchFile.open(copy_of_night(self.folder))
        self.addCleanup(bench.close)
        wire = bench.wires()[0].id
        rows = bench.exchanges(wire, 0, 10**9)
        with bench.writing():
            bench._connection.execute(
                "DELETE FROM exchange WHERE wire = ? AND number > 500", (wire,)
            )
        history = KeptHistory(bench)
        before = history.read()[0]
        self.assertEqual(501, len(before))
        with bench.writing():
            changed = [replace(row, verdict=3) for row in rows[490:500]]
            bench.put_exchanges(wire, [*changed, *rows[501:]])
        after = history.read()[0]
        self.assertEqual(len(rows), len(after))
        self.assertEqual([3] * 10, after.verdict[490:500].tolist())
        self.assertNotEqual([3] * 10, before.verdict[490:500].tolist())

    def test_growing_columns(self) -> None:
        """What was taken out does not change when rows are put anew."""
        column = Growing(np.int64)
        for start in range(0, 5000, 700):
            taken = column.taken()
            copy = taken.copy()
            column.cut(max(len(column) - 3, 0))
            column.extend(np.arange(start, start + 700))
            np.testing.assert_array_equal(copy, taken)


class Given(PivetTest):
    """Marks, corrections, limits and references are kept."""

    def test_there_and_back(self) -> None:
        """All of them, through the file."""
        path = copy_of_night(self.folder)
        bench = BenchFile.open(path)
        before = read_annotations(bench)
        self.assertEqual(["breath", "warm hand"], [mark.text for mark in before.marks])
        after = (
            before.marked(Mark(5, "door"))
            .corrected(SHELF, by_points((75.3, 75.0), (33.9, 33.0)))
            .limited(SHELF, Limit(80.0, None, 1.0, 5.0))
            .referred(Reference("wall", "humidity", np.array([1, 2]), np.array([91.0, 92.0]), 1.5))
        )
        write_annotations(bench, before, after)
        bench.close()
        bench = BenchFile.open(path)
        self.addCleanup(bench.close)
        found = read_annotations(bench)
        self.assertEqual(after.marks, found.marks)
        self.assertEqual(after.corrections, found.corrections)
        self.assertEqual(after.limits, found.limits)
        (reference,) = found.references
        self.assertEqual(
            ("wall", 1.5, [1, 2]), (reference.name, reference.accuracy, [*reference.times_ns])
        )
        write_annotations(bench, found, NOTHING)
        self.assertEqual(
            ((), {}), (read_annotations(bench).references, dict(read_annotations(bench).limits))
        )

    def test_a_correction_acts_everywhere(self) -> None:
        """On the series and what follows from it; the raw value stays, in the file too."""
        raw = series_of(night_file())
        path = copy_of_night(self.folder)
        bench = BenchFile.open(path)
        before = read_annotations(bench)
        write_annotations(bench, before, before.corrected(SHELF, by_offset(-2.0)))
        bench.close()
        found = series_of(path)
        np.testing.assert_allclose(raw[SHELF].values - 2, found[SHELF].values)
        np.testing.assert_array_equal(raw[SHELF].values, found[SHELF].raw)
        dew = Sensor("shelf_A", "", "dew point")
        self.assertTrue((found[dew].values[:50] < raw[dew].values[:50]).all())
        self.assertEqual("humidity -2 %RH", found[dew].correction)


class Night(PivetTest):
    """What a person wants to know of it in the morning."""

    def test_hours_of_the_local_clock(self) -> None:
        """Each exchange is in its hour of the clock on the wall, whatever the zone."""
        with open_readings(night_file(), NO_ROLES) as found:
            rows = found.wires()["wash_room"]
        for zone in ("UTC", "Asia/Kolkata", "Asia/Kathmandu", "America/St_Johns"):
            self.in_zone(zone)
            told = reliability(rows, clock=True)
            times = np.concatenate([row.times_ns for row in rows])
            hours = [datetime.fromtimestamp(t / 1e9).replace(minute=0, second=0) for t in times]
            wanted = Counter(hour.replace(microsecond=0) for hour in hours)
            self.assertEqual([*wanted.values()], told.hours.counts.sum(axis=1).tolist())
            begins = [datetime.fromtimestamp(t / 1e9) for t in told.hours.begin_ns.tolist()]
            self.assertEqual({(0, 0)}, {(at.minute, at.second) for at in begins})

    def test_wires_by_name(self) -> None:
        """One that can be several, and one that is none, with what there is to choose."""
        with open_readings(night_file(), NO_ROLES) as found:
            self.assertEqual(["wheels", "shelf_A"], found.meant(["wheels", "shelf_A"], "x"))
            self.assertEqual({"wheels"}, set(found.of_wires(["wheels"]).wires()))
            self.assertEqual(found.wires().keys(), found.of_wires([]).wires().keys())
            with self.assertRaisesRegex(InputError, "'door' is no wire of x: .*wheels"):
                found.meant(["door"], "x")
            rows = [replace(found.histories[0], name=name) for name in ("a.data", "b.data")]
            twice = replace(found, histories=tuple(rows))
            said = "'data' can be several wires of x: choose one of a.data, b.data"
            with self.assertRaisesRegex(InputError, said):
                twice.meant(["data"], "x")

    def test_margins_in_words(self) -> None:
        """At the limit itself it is still a margin."""
        self.assertEqual("none: a pulse was outside", margin_text(-0.001))
        self.assertEqual("0 % of the way from its limit", margin_text(0.0))
        self.assertEqual("25 % of the way from its limit", margin_text(0.25))

    def test_a_wire_without_trouble(self) -> None:
        """Nothing is advised where nothing stands out; nothing at all is no trouble."""
        with open_readings(night_file(), NO_ROLES) as found:
            (vat,) = found.wires()["brine_vat"]
        quiet = vat.between(0, 0)
        told = reliability([quiet])
        self.assertEqual((0, "", ""), (told.count, told.advice, worst_hour(told, True)))
        self.assertTrue(math.isnan(told.margin))


class Tables(PivetTest):
    """CSV and JSON Lines that other programs read."""

    def table(self, form: Form, **more: Any) -> str:
        """An hour of shelf A and wash room with the correction of one."""
        with open_readings(night_file(), NO_ROLES) as found:
            given = found.given.corrected(SHELF, by_offset(-2.0))
            rows = replace(found, given=given).of_wires(["shelf_A", "wash_room"]).series()
        begin = BEGAN_NS + round(WET_FROM_S * 1e9)
        cut = [row.between(begin, begin + HOUR_NS) for row in rows]
        stream = io.StringIO()
        write_table(cut, True, form, stream, **more)  # type: ignore[arg-type]
        return stream.getvalue()

    def test_pandas_reads_it(self) -> None:
        """Times with their zone, numbers as numbers, gaps as gaps with a reason."""
        import pandas as pd

        frame = pd.read_csv(io.StringIO(self.table(Form.WIDE)), parse_dates=["time"])
        self.assertEqual(1200 + 600, len(frame))
        self.assertTrue(frame["time"].is_monotonic_increasing)
        self.assertEqual(BEGAN_NS + round(WET_FROM_S * 1e9) + 1_250_000_000, frame["time"][0].value)
        shelf = frame[frame["wire"] == "shelf_A"]
        given = shelf["humidity_%RH"].notna()
        np.testing.assert_allclose(
            shelf["humidity_%RH"][given], shelf["humidity_raw_%RH"][given] - 2, atol=1e-9
        )
        wash = frame[frame["wire"] == "wash_room"]
        failed = wash["temperature_°C"].isna()
        self.assertGreater(failed.sum(), 300)
        self.assertEqual(failed.tolist(), wash["reason"].notna().tolist())
        self.assertEqual({"no answer", "the sum is wrong"}, set(wash["reason"].dropna()))
        self.assertIn("dew_point_°C", frame.columns)

    def test_times(self) -> None:
        """ISO 8601 with the zone that held then, on both sides of a change of clocks."""
        from datetime import datetime

        import pandas as pd

        from pivet.history.times import iso_times, parse_time, utc_time, utc_times

        self.in_zone("CET-1CEST,M3.5.0,M10.5.0/3")
        moments = np.array([1774745999123, 1774746000123]) * 10**6
        texts = iso_times(moments)
        self.assertEqual(["2026-03-29T01:59:59.123+01:00", "2026-03-29T03:00:00.123+02:00"], texts)
        for text, moment in zip(texts, moments, strict=True):
            self.assertEqual(moment, parse_time(text))
            self.assertAlmostEqual(moment / 1e9, datetime.fromisoformat(text).timestamp(), 6)
        # The night in which an hour comes twice: times in UTC sort, and are read as times.
        twice = (1792886400123 + np.arange(0, 4 * 3600_000, 600_000)) * 10**6
        utc, local = utc_times(twice), iso_times(twice)
        self.assertEqual(sorted(utc), utc)
        self.assertNotEqual(sorted(local), local)
        self.assertEqual(utc, [utc_time(int(moment)) for moment in twice])
        frame = pd.read_csv(
            io.StringIO("time,local_time\n" + "".join(map("{},{}\n".format, utc, local))),
            parse_dates=["time"],
        )
        self.assertEqual(twice.tolist(), [moment.value for moment in frame["time"]])
        self.assertEqual({"+01:00", "+02:00"}, {text[-6:] for text in local})


class Words(PivetTest):
    """Days in English, whatever language the system speaks."""

    def test_days_and_months(self) -> None:
        """Each of a week, each of a year."""
        self.in_zone("UTC")
        week = [datetime(2026, 3, day, 4, 59, 58, tzinfo=UTC) for day in range(2, 9)]
        said = [whole_moment(round(at.timestamp()) * 10**9) for at in week]
        days = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"]
        self.assertEqual(days, [text[:3] for text in said])
        self.assertEqual("Sun 8 Mar 2026, 04:59:58", said[-1])
        year = " ".join(day_text(datetime(2026, month, 1, tzinfo=UTC)) for month in range(1, 13))
        wanted = "1 Jan 1 Feb 1 Mar 1 Apr 1 May 1 Jun 1 Jul 1 Aug 1 Sep 1 Oct 1 Nov 1 Dec"
        self.assertEqual(wanted, year)
