"""Taking readings out of the real window: the forms that ask, and what is written."""

import json
from datetime import datetime, timedelta
from pathlib import Path
from unittest import mock

import pandas as pd
from PySide6.QtWidgets import QFileDialog, QInputDialog

from pivet.files.readings_table import Form
from pivet.keeping.log import LogWish, read_wish
from pivet.readings.series import Sensor
from pivet.ui.agreement.correcting import CorrectionDialog, ReferenceDialog
from pivet.ui.agreement.page import AgreementPage
from pivet.ui.readings.out import SEEN, LogDialog, numbered
from tests.night import BEGAN_NS
from tests.ui.night import NightTest

SHELF, WASH = Sensor("shelf_A", "", "humidity"), Sensor("wash_room", "", "humidity")
CSV, LONG, LINES = (
    f"{name} (*.{end})"
    for name, end in (
        ("CSV, a column a quantity", "csv"),
        ("CSV, a line a quantity", "csv"),
        ("JSON Lines", "jsonl"),
    )
)


class Exports(NightTest):
    """Readings and statistics into files."""

    def asked(self, name: str, kind: str) -> mock._patch:
        """The person gives this name in the file form."""
        answer = str(self.folder / name) if name else "", kind
        return mock.patch.object(QFileDialog, "getSaveFileName", return_value=answer)

    def test_all(self) -> None:
        """Readings by key, statistics in three forms; nothing without a name or a folder."""
        # A form that is left writes nothing and says nothing.
        self.window.notice.hide()
        before = set(self.folder.iterdir())
        with self.asked("", ""):
            self.press("Ctrl+E")
            self.views.out.choose_statistics_file()
            self.finish_jobs()
        self.assertEqual(before, set(self.folder.iterdir()))
        self.assertFalse(self.window.notice.isVisible())
        # Ctrl+E; the ending follows the chosen form.
        with self.asked("all", LONG):
            self.press("Ctrl+E")
            self.finish_jobs()
            self.finish_jobs()
        frame = pd.read_csv(self.folder / "all.csv")
        self.assertEqual({"humidity", "temperature", "level"}, set(frame["quantity"]))
        self.assertEqual(1200, int((frame["wire"] == "shelf_A").sum()) // 2)
        self.assertIn("all.csv was written", self.window.notice.text)
        # The same figures; a name without an ending takes that of the form.
        for kind in ("Text (*.txt)", "CSV, a row a quantity (*.csv)", "JSON (*.jsonl)"):
            with self.asked("figures", kind):
                self.views.out.choose_statistics_file()
                self.finish_jobs()
                self.finish_jobs()
        text = (self.folder / "figures.txt").read_text(encoding="utf-8")
        frame = pd.read_csv(self.folder / "figures.csv")
        lines = (self.folder / "figures.jsonl").read_text(encoding="utf-8").splitlines()
        wash = next(row for row in map(json.loads, lines) if row["wire"] == "wash_room")
        # By the hours of the local clock, which is half an hour off in some zones.
        self.assertRegex(text, r"\d{2} of 75 exchanges unsound in the hour from")
        damp = frame[(frame["wire"] == "wash_room") & (frame["quantity"] == "humidity")].iloc[0]
        self.assertEqual(56, damp["unsound"])
        self.assertEqual(56, wash["verdicts"]["unsound"])
        mean = damp["mean"]
        self.assertEqual(mean, wash["readings"][0]["mean"])
        # Is said in one sentence; the work stays.
        self.views.out.export_statistics(self.folder / "no" / "figures.txt")
        self.finish_jobs()
        self.assertIn("figures.txt", self.window.notice.text)
        self.assertTrue(self.session.captures)

    def test_in_sight(self) -> None:
        """Of a Trend that shows nothing all, else what it shows."""
        # Nothing is in sight of it, so all is exported, and nothing is asked.
        self.go("trend")
        self.over_time.plots.show_series([], (0, 1), True, keep=False)
        self.over_time._reveal()
        with self.asked("all", LONG), mock.patch.object(QInputDialog, "getItem") as ask:
            self.press("Ctrl+E")
            self.finish_jobs()
            self.finish_jobs()
        ask.assert_not_called()
        self.assertTrue((self.folder / "all.csv").exists())
        # Of the Trend, asked for when it is shown; JSON Lines by the name's ending.
        self.go("trend")
        self.over_time.plots.look_at(BEGAN_NS, BEGAN_NS + 600 * 10**9)
        self.settle()
        with (
            self.asked("seen.jsonl", CSV),
            mock.patch.object(QInputDialog, "getItem", return_value=(SEEN, True)) as ask,
        ):
            self.press("Ctrl+E")
            self.finish_jobs()
        ask.assert_called_once()
        lines = (self.folder / "seen.jsonl").read_text(encoding="utf-8").splitlines()
        rows = [json.loads(line) for line in lines]
        last = max(datetime.fromisoformat(row["time"]) for row in rows)
        began = datetime.fromtimestamp(BEGAN_NS / 1e9).astimezone()
        self.assertLessEqual(last - began, timedelta(seconds=601))
        self.assertEqual(25, sum(row["wire"] == "shelf_A" for row in rows))


class Log(NightTest):
    """The form of the running log."""

    def test_asked_for(self) -> None:
        """A file, and what is to stand in it."""
        # A file that is there is gone on with: nobody is asked whether to overwrite it.
        dialog = LogDialog(None, str(self.folder), self.session.shown.units)
        name = str(self.folder / "other.csv")
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(name, "")) as ask:
            dialog._browse()
        self.assertEqual(QFileDialog.Option.DontConfirmOverwrite, ask.call_args.kwargs["options"])
        self.assertEqual(Path(name), dialog.wish().path)
        self.assertTrue(dialog.wish().daily)
        self.assertEqual("other-source2.csv", numbered(dialog.wish(), 1).path.name)
        dialog.deleteLater()
        # File, form, day and derived; kept for the next time, and ended.

        def fill(dialog: LogDialog) -> None:
            dialog.path.setText(str(self.folder / "cave.csv"))
            dialog.form.setCurrentText("JSON Lines")
            self.assertEqual(str(self.folder / "cave.jsonl"), dialog.path.text())
            dialog.daily.setChecked(False)
            dialog.derived.setChecked(True)

        self.press("U")
        self.in_dialog(self.views.out.choose_log, LogDialog, fill)
        wish = read_wish(self.views.out._settings.log)
        units = self.session.shown.units
        self.assertEqual(LogWish(self.folder / "cave.jsonl", Form.LINES, True, False, units), wish)
        self.assertIn("as soon as Pivet listens", self.window.notice.text)
        self.views.out.keep_log(None)
        self.assertEqual("", self.views.out._settings.log)
        self.assertIn("has ended", self.window.notice.text)
        seen = []
        self.in_dialog(
            self.views.out.choose_log, LogDialog, lambda dialog: seen.append(dialog.path.text())
        )
        self.assertEqual([str(self.folder / "cave.jsonl")], seen)


class References(NightTest):
    """The forms of the Agreement view."""

    def setUp(self) -> None:
        super().setUp()
        page = self.go("agreement")
        assert isinstance(page, AgreementPage)
        self.agreement = page
        page.choose(SHELF, "")

    def test_given(self) -> None:
        """A correction, a value, a log of several columns."""
        # An offset; the raw values stay.
        store = self.views.store
        before = store.series(SHELF).values.copy()

        def fill(dialog: CorrectionDialog) -> None:
            dialog.by_offset.setChecked(True)
            dialog.offset.setValue(-2.0)

        self.in_dialog(self.agreement.ask_correction, CorrectionDialog, fill)
        after = store.series(SHELF)
        self.assertAlmostEqual(before[0] - 2, after.values[0])
        self.assertEqual(before[0], after.raw[0])
        # For the moment that is looked at; undone as anything else.

        def fill_again(dialog: ReferenceDialog) -> None:
            dialog.name.setText("sling hygrometer")
            dialog.value.setValue(91.0)

        self.in_dialog(self.agreement.ask_value, ReferenceDialog, fill_again)
        (reference,) = self.views.store.annotations.references
        self.assertEqual("sling hygrometer", reference.name)
        self.assertIn("sling hygrometer", self.agreement.reference.currentText())
        self.press("Ctrl+Z")
        self.assertFalse(self.views.store.annotations.references)
        # It is asked which one is meant.
        path = self.folder / "two.csv"
        at = datetime.fromtimestamp(BEGAN_NS / 1e9).astimezone()
        rows = ["time,left humidity (%),right humidity (%)"]
        rows += [f"{(at + timedelta(minutes=n)).isoformat()},90.0,{91 + n % 2}" for n in range(60)]
        path.write_text("\n".join(rows), encoding="utf-8")
        with (
            mock.patch.object(QFileDialog, "getOpenFileName", return_value=(str(path), "")),
            mock.patch.object(QInputDialog, "getItem") as ask,
        ):
            ask.side_effect = lambda _parent, _title, _text, names, *_: (names[1], True)
            self.agreement.choose_log()
        (reference,) = self.views.store.annotations.references
        self.assertAlmostEqual(91.5, float(reference.values.mean()))
        with (
            mock.patch.object(QFileDialog, "getOpenFileName", return_value=(str(path), "")),
            mock.patch.object(QInputDialog, "getItem", return_value=("", False)),
        ):
            self.agreement.choose_log()
        self.assertEqual(1, len(self.views.store.annotations.references))
