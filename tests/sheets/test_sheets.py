"""Sheets: the data files against the domain's figures, and bad files."""

import unittest

from pivet.errors import InputError
from pivet.sheets.load import DATA, all_sheets, find_sheet, parse_sheet
from pivet.sheets.model import Driver, Origin, Window
from tests.base import PivetTest

FIGURES: dict[str, dict[str, object]] = {
    "dht22": {
        "ask": (800, 1000, 20000),
        "release": (20, 30, 200),
        "answer_low": (75, 80, 85),
        "answer_high": (75, 80, 85),
        "bit_low": (48, 50, 55),
        "zero_high": (22, 26, 30),
        "one_high": (68, 70, 75),
        "end_low": (45, 50, 55),
    },
    "dht11": {
        "ask": (18000, 20000, 30000),
        "release": (10, 13, 35),
        "answer_low": (81, 83, 85),
        "answer_high": (85, 87, 88),
        "bit_low": (52, 54, 56),
        "zero_high": (23, 24, 27),
        "one_high": (68, 71, 74),
        "end_low": (52, 54, 56),
    },
    "dht11-early": {
        "ask": (18000, 20000, None),
        "release": (20, 30, 40),
        "answer_low": (72, 80, 88),
        "answer_high": (72, 80, 88),
        "bit_low": (45, 50, 55),
        "zero_high": (23.4, 27, 30.8),
        "one_high": (63, 70, 77),
        "end_low": (45, 50, 55),
    },
    "onewire": {
        "reset": (480, 500, 960),
        "presence_wait": (15, 30, 60),
        "presence": (60, 120, 240),
        "phase": (480, 500, None),
        "one": (1, 6, 15),
        "zero": (60, 65, 120),
        "hold": (15, 30, 60),
        "slot": (60, 70, None),
        "recovery": (1, 5, None),
        "fast_reset": (48, 60, 80),
        "fast_presence_wait": (2, 3, 6),
        "fast_presence": (8, 12, 24),
        "fast_phase": (48, 50, None),
        "fast_one": (1, 1.5, 2),
        "fast_zero": (6, 8, 16),
        "fast_hold": (2, 3, 6),
        "fast_slot": (6, 10, None),
        "fast_recovery": (1, 2, None),
    },
    "hc-sr04": {
        "trigger": (10, 10, None),
        "wait": (150, 475, 700),
        "echo": (116, 5800, 23200),
    },
    "ping3": {
        "trigger": (2, 5, None),
        "wait": (150, 750, 825),
        "echo": (115, 4600, 18500),
        "rest": (200, 1000, None),
    },
}
"""The domain page; windows of which only the typical value is known are 10 % wide."""
FIGURES["dht21"] = FIGURES["am2320"] = FIGURES["dht22"]
FIGURES["dht12"] = FIGURES["dht11"]
for _id, _most in (("18ms", 16900), ("60ms", 23310), ("200ms", 23310), ("6m", 34965)):
    FIGURES[f"echo-{_id}"] = {**FIGURES["hc-sr04"], "echo": (116, 5800, _most)}


class Shipped(PivetTest):
    """The sheets that ship."""

    def test_figures(self) -> None:
        """Every window has the figures of the domain page."""
        self.assertEqual(set(FIGURES), set(all_sheets()))
        for sheet_id, windows in FIGURES.items():
            sheet = find_sheet(sheet_id)
            found = {key: (w.min_us, w.typ_us, w.max_us) for key, w in sheet.windows.items()}
            self.assertEqual(windows, found, sheet_id)

    def test_assumed_windows_are_marked(self) -> None:
        """Only what a sheet gives no range for is assumed."""
        assumed = {
            (sheet.id, key)
            for sheet in all_sheets().values()
            for key, window in sheet.windows.items()
            if window.assumed and not sheet.by_choice
        }
        keys = ("answer_low", "answer_high", "bit_low", "zero_high", "one_high", "end_low")
        waits = {("hc-sr04", "wait"), ("ping3", "wait")}
        self.assertEqual({("dht11-early", key) for key in keys} | waits, assumed)

    def test_intervals_and_sources(self) -> None:
        """Each sheet says where it is from; some have a least interval."""
        self.assertEqual(
            {"dht22": 2.0, "dht11": 1.0, "dht11-early": 1.0, "hc-sr04": 0.06},
            {
                sheet.id: sheet.interval_s
                for sheet in all_sheets().values()
                if sheet.interval_s and not sheet.by_choice
            },
        )
        self.assertTrue(all(sheet.source for sheet in all_sheets().values()))

    def test_sheets_by_choice_rest_on_what_is_marked(self) -> None:
        """Their signals are another sheet's: what the sensor does of its own is assumed, aloud."""
        for sheet in (row for row in all_sheets().values() if row.by_choice):
            self.assertIn("assumed", sheet.source)
            own = [row for row in sheet.windows.values() if row.driver is not Driver.HOST]
            if sheet.family == "humidity-frame":
                self.assertTrue(all(window.assumed for window in own), sheet.id)
            marked = [row for row in sheet.values if row.accuracy_origin is Origin.ASSUMED]
            self.assertEqual(len(sheet.values), len(marked))

    def test_what_is_common_contains_the_window(self) -> None:
        """And a sheet that says otherwise is refused."""
        for sheet in all_sheets().values():
            for window in sheet.windows.values():
                if window.common_us is not None:
                    low, high = window.common_us
                    self.assertTrue(low <= window.min_us and high >= (window.max_us or 0))
        with self.assertRaises(ValueError):
            Window("a", "a", Driver.HOST, 10, 20, 30, Origin.SHEET, common_us=(12, 40))


class Refused(PivetTest):
    """Bad data files and unknown names."""

    def test_sentences(self) -> None:
        """Each fault is named."""
        good = 'id="a"\nname="a"\nfamily="humidity"\nparts=[]\nsource="s"\nwindow=[]\nvalue=[]\n'
        window = '[[window]]\nkey="ask"\nlabel="ask"\ndriver="host"\nmin_us=5\ntyp_us=3\nmax_us=9\n'
        cases = {
            "id = ": "is no TOML file",
            good.replace('source="s"\n', ""): "lacks the entry 'source'",
            good.replace("window=[]\n", "") + "[interval]\nleast_s=1\n" + window: "min <= typical",
        }
        for text, part in cases.items():
            with self.subTest(part), self.assertRaises(InputError) as caught:
                parse_sheet(text, "own.toml")
            self.assertIn(part, str(caught.exception))

    def test_unknown_sheet(self) -> None:
        """The message lists what there is."""
        with self.assertRaises(InputError) as caught:
            find_sheet("dht33")
        self.assertIn("choose one of am2320, dht11, dht11-early, dht12", str(caught.exception))

    def test_window_cannot_contradict_itself(self) -> None:
        """Limits must enclose the typical value."""
        with self.assertRaises(ValueError):
            Window("a", "a", Driver.HOST, 10, 20, 15, Origin.SHEET)


class Wired(PivetTest):
    """How sensors are wired."""

    def test_every_sheet_says_it(self) -> None:
        """Open-drain lines rest high through a pull-up, those of echo sensors low."""
        for sheet in all_sheets().values():
            assert sheet.wiring is not None, sheet.id
            echo = sheet.family == "echo-pulse"
            self.assertEqual("low" if echo else "high", sheet.wiring.idle)
            self.assertEqual(echo, sheet.wiring.pull_up == "none")

    def test_a_level_that_is_none(self) -> None:
        """A sentence says what is wrong."""
        text = (
            (DATA / "dht22.toml")
            .read_text(encoding="utf-8")
            .replace('idle = "high"', 'idle = "up"')
        )
        with self.assertRaisesRegex(InputError, "cannot rest 'up'"):
            parse_sheet(text, "x.toml")


if __name__ == "__main__":
    unittest.main()
