"""Sheets: the data files against the domain's figures, and bad files."""

from pivet.errors import InputError
from pivet.sheets.load import DATA, all_sheets, find_sheet, parse_sheet
from pivet.sheets.model import Driver, Origin, Window
from tests.base import PivetTest
from tests.figures import figures


class Shipped(PivetTest):
    """The sheets that ship."""

    def test_figures(self) -> None:
        """Every window has the figures of the domain page."""
        kept = figures(__file__)
        wanted = kept["windows"] | {
            name: kept["windows"][other] for name, other in kept["same_windows"].items()
        }
        found = {
            sheet.id: {
                key: [us for us in (w.min_us, w.typ_us, w.max_us) if us is not None]
                for key, w in sheet.windows.items()
            }
            for sheet in all_sheets().values()
        }
        self.assertEqual(wanted, found)

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
