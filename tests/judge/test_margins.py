"""Margins and verdicts of single pulses, with the capture's uncertainty."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from pivet.frozen import replace
from pivet.judge.margins import is_coarse, judge_widths, margin_share, margin_us
from pivet.judge.verdict import Verdict
from pivet.sheets.load import find_sheet

WINDOW = replace(find_sheet("dht22").windows["zero_high"], common_us=None)  # 22 / 26 / 30 µs
EARLY_ASK = find_sheet("dht11-early").windows["ask"]  # at least 18 ms


def verdict(width_us: float, resolution_ns: int = 1, window=WINDOW) -> Verdict:
    """Of one pulse."""
    width = np.array([round(width_us * 1000)])
    return Verdict(int(judge_widths(width, width, window, resolution_ns)[0]))


class Verdicts(unittest.TestCase):
    """Where one verdict ends and the next begins."""

    def test_fine_capture(self) -> None:
        """At 1 ns: outside, at the limit, near, sound."""
        cases = {
            21.9: Verdict.UNSOUND,
            22.0: Verdict.NEAR,
            22.7: Verdict.NEAR,
            22.9: Verdict.SOUND,
            26.0: Verdict.SOUND,
            29.1: Verdict.SOUND,
            29.3: Verdict.NEAR,
            30.0: Verdict.NEAR,
            30.1: Verdict.UNSOUND,
        }
        for width_us, expected in cases.items():
            self.assertIs(expected, verdict(width_us), width_us)

    def test_near_ends_at_a_fifth_of_the_way(self) -> None:
        """To the nanosecond, on either side of the typical width."""
        for width_us, expected in (
            (22.799, Verdict.NEAR),
            (22.8, Verdict.SOUND),
            (29.2, Verdict.SOUND),
            (29.201, Verdict.NEAR),
        ):
            self.assertIs(expected, verdict(width_us, 0), width_us)

    def test_uncertain_width_at_the_limit(self) -> None:
        """At 1 µs a width 0.9 µs over the limit may be inside: near, not unsound."""
        self.assertIs(Verdict.NEAR, verdict(30.9, 1000))
        self.assertIs(Verdict.UNSOUND, verdict(31.1, 1000))

    def test_coarse_capture(self) -> None:
        """At 5 µs nobody can tell; far outside stays outside."""
        self.assertTrue(is_coarse(WINDOW, 5000))
        self.assertIs(Verdict.UNKNOWN, verdict(25.0, 5000))
        self.assertIs(Verdict.UNKNOWN, verdict(30.0, 5000))
        self.assertIs(Verdict.UNSOUND, verdict(40.0, 5000))

    def test_host_has_a_clock_of_its_own(self) -> None:
        """An ask of 20.1 ms is at the limit of 20 ms; a sensor's pulse has no such slack."""
        ask = find_sheet("dht22").windows["ask"]
        found = [verdict(us, 100, ask) for us in (20_000, 20_100, 20_300, 795, 780)]
        near, unsound = Verdict.NEAR, Verdict.UNSOUND
        self.assertEqual([near, near, unsound, near, unsound], found)
        self.assertIs(unsound, verdict(30.2))

    def test_window_without_upper_limit(self) -> None:
        """An ask of the early sheet may last as long as it likes."""
        self.assertIs(Verdict.SOUND, verdict(900_000, 1000, EARLY_ASK))
        self.assertIs(Verdict.NEAR, verdict(18_001, 1000, replace(EARLY_ASK, advised_us=None)))
        self.assertIs(Verdict.UNSOUND, verdict(17_000, 1000, EARLY_ASK))

    def test_what_the_maker_advises_is_never_near(self) -> None:
        """Trigger, ask and reset by the host's own clock, unless the capture is too coarse."""
        trigger = find_sheet("hc-sr04").windows["trigger"]
        eleven = find_sheet("dht11").windows["ask"]
        reset = find_sheet("onewire").windows["reset"]
        for window, advised in ((trigger, 10), (eleven, 18_000), (reset, 480)):
            for share in (0.993, 1.0, 1.01):
                self.assertIs(Verdict.SOUND, verdict(advised * share, 10, window), window.key)
            self.assertIs(Verdict.UNSOUND, verdict(advised * 0.97, 10, window))
        self.assertIs(Verdict.UNKNOWN, verdict(10, 5000, trigger))

    def test_assumed_windows_call_nothing_unsound(self) -> None:
        """However far outside."""
        wait = find_sheet("hc-sr04").windows["wait"]
        found = [verdict(us, 10, wait) for us in (10, 149, 160, 475, 690, 710, 5000)]
        near, sound = Verdict.NEAR, Verdict.SOUND
        self.assertEqual([near, near, sound, sound, sound, near, near], found)

    def test_common_in_copies_is_near(self) -> None:
        """Outside the maker's window, but no further than copies are known to go."""
        low = find_sheet("dht22").windows["bit_low"]  # 48..55, common up to 68
        found = [verdict(us, 10, low) for us in (47.9, 50, 55.2, 67.9, 68.2)]
        near, unsound = Verdict.NEAR, Verdict.UNSOUND
        self.assertEqual([unsound, Verdict.SOUND, near, near, unsound], found)

    def test_each_pulse_by_its_own_uncertainty(self) -> None:
        """One number for all, or one for each."""
        width = np.full(3, 31_000)
        found = judge_widths(width, width, WINDOW, np.array([10, 1_500, 5_000]))
        self.assertEqual([Verdict.UNSOUND, Verdict.NEAR, Verdict.UNKNOWN], found.tolist())

    @given(st.integers(1, 60_000), st.integers(1, 20_000))
    def test_outside_means_outside_whatever_the_width_was(self, width: int, step: int) -> None:
        """Unsound only if no true width within the uncertainty is inside; sound only if all are."""
        found = verdict(width / 1000, step)
        inside = [22_000 <= true <= 30_000 for true in (width - step, width, width + step)]
        reach = width + step >= 22_000 and width - step <= 30_000
        self.assertEqual(found is Verdict.UNSOUND, not reach)
        if found is Verdict.SOUND:
            self.assertTrue(all(inside))

    def test_any_step_of_a_capture(self) -> None:
        """A step of 100 s, and a line held low for seconds, are judged without overflow."""
        width = np.array([2**31 - 1, 26_000, -1], dtype=np.int32)
        for window in (WINDOW, EARLY_ASK):
            coarse = judge_widths(width, width, window, 10**11).tolist()
            self.assertEqual([Verdict.UNKNOWN, Verdict.UNKNOWN, Verdict.SOUND], coarse)
        held = judge_widths(width[:1], width[:1], EARLY_ASK, 1000).tolist()
        self.assertEqual([Verdict.SOUND], held)

    def test_worst_of_several(self) -> None:
        """Shortest and longest pulse of a window count both."""
        least, most = np.array([21_000, 26_000, -1]), np.array([26_000, 31_000, -1])
        found = judge_widths(least, most, WINDOW, 1)
        self.assertEqual([Verdict.UNSOUND, Verdict.UNSOUND, Verdict.SOUND], found.tolist())


class Margins(unittest.TestCase):
    """Distances to limits."""

    def test_margin(self) -> None:
        """In µs, negative outside; as a share, 1 at the typical width."""
        self.assertAlmostEqual(1.5, margin_us(23_500, WINDOW))
        self.assertAlmostEqual(-2.0, margin_us(32_000, WINDOW))
        self.assertAlmostEqual(1.0, margin_share(26_000, WINDOW))
        self.assertAlmostEqual(0.25, margin_share(29_000, WINDOW))
        self.assertAlmostEqual(-0.5, margin_share(20_000, WINDOW))

    def test_lopsided_window(self) -> None:
        """1 ms in 0.8..20 ms is typical, not near the lower limit."""
        ask = find_sheet("dht22").windows["ask"]
        self.assertAlmostEqual(1.0, margin_share(1_000_000, ask))
        self.assertIs(Verdict.SOUND, verdict(1000, 100, ask))
        self.assertIs(Verdict.NEAR, verdict(810, 100, ask))
