"""Parts of the live window by themselves: forms, bar, cards, benches that were left behind."""

import time

from PySide6.QtWidgets import QLabel

from pivet.bench.live_bench import wire_now
from pivet.files.benchfile.store import BenchFile
from pivet.frozen import replace
from pivet.keeping.kept import KeptCapture
from pivet.listening.setup import WireSetup, least_interval_s, usual_interval_s
from pivet.sheets.load import all_sheets, find_sheet
from pivet.ui.bench.keeper import BenchKeeper
from pivet.ui.live.add_wire import PaceDialog
from pivet.ui.live.asking_form import AskingForm
from pivet.ui.live.changes import RestWire, SetPace
from pivet.ui.live.state import Live, merged
from pivet.ui.live.thread import ListeningThread
from pivet.ui.wires.model import Row
from tests.listening.cave import CaveTest, wire
from tests.ui.base import WindowTest


class Forms(WindowTest):
    """How a wire is to be asked."""

    def test_each(self) -> None:
        """No form lets anybody ask too soon; all its text has room."""
        # No form lets anybody ask sooner than the sheet allows; it says why, and the wiring.
        for sheet in all_sheets().values():
            with self.subTest(sheet.id):
                form = AskingForm()
                form.show_sheet(sheet)
                self.assertAlmostEqual(usual_interval_s(sheet), form.every.value(), delta=0.01)
                self.assertEqual(0.0, form.every_s)
                form.every.setValue(0.0)
                self.assertGreaterEqual(form.every.value() + 0.005, least_interval_s(sheet))
                self.assertIn(f"{least_interval_s(sheet):g} s", form.reason.text())
                self.assertIn("rests", form.wiring.text())
                form.asks.setChecked(False)
                self.assertIsNone(form.every_s)
                self.assertFalse(form.every.isEnabled())
        # Nothing can be wrong before it is known what is there.
        form = AskingForm()
        self.assertEqual("–", form.every.text())
        self.assertEqual((0.0, 1), (form.every_s, form.tries))
        only = AskingForm(can_ask=False)
        self.assertFalse(only.asks.isEnabled())
        self.assertIsNone(only.every_s)
        # The dialog begins with what holds, and gives back what was not touched.
        sheet = find_sheet("dht22")
        for pace in ((None, 0), (5.0, 2), (0.0, 1)):
            dialog = PaceDialog("shelf_A", sheet, pace)
            self.assertEqual(pace, (dialog.form.every_s, dialog.form.tries))
            self.assertIn("shelf_A", dialog.windowTitle())
            dialog.close()
        # Reason and wiring of every sensor have room in the dialog.
        for sheet in all_sheets().values():
            dialog = PaceDialog("shelf_A", sheet, (0.0, 1))
            dialog.show()
            self.settle()
            for label in dialog.findChildren(QLabel):
                need = label.heightForWidth(label.width()) if label.wordWrap() else 0
                self.assertGreaterEqual(label.height() + 1, need, f"{sheet.id}: {label.text()}")
            dialog.close()


class Shown(CaveTest, WindowTest):
    """A live capture, told by a listener on a made clock."""

    def setUp(self) -> None:
        super().setUp()
        self.listen(wire("shelf_A", "dht22"), wire("wheels", "onewire"), wire("spare"))
        self.window.live.keeper.throwaway = True
        self.bench = self.window.live.keeper.need()
        self.recorder = self.new_recorder(self.bench)
        self.kept = KeptCapture(self.bench, self.recorder.capture)
        self.session.live[self.kept] = Live()
        self.session.add_capture(self.kept.capture())

    def tell(self, seconds: float, here: bool = True) -> None:
        """Time passes; the window is told."""
        self.recorder.take(list(self.passes(seconds)))
        self.recorder.keep(now=True)
        rows = tuple(wire_now(row) for row in self.listener.wires)
        zero_ns = time.time_ns() - self.source.now_ns()
        self.session.hear(self.kept, Live(rows, here, zero_ns))
        self.wait_for(lambda: not self.session.moving, "the views have gone on")

    def row(self, name: str) -> Row:
        """A card."""
        return next(row for row in self.page.wires.rows if row.short == name)

    def test_cards(self) -> None:
        """From nothing known to readings, a probe that is missed, a source that is away."""
        self.assertEqual(["stand-in cave"], [row.spoken for row in self.page.wires.rows])
        self.assertIs(self.page, self.window.views.page)
        self.assertTrue(self.page.isVisible())
        self.tell(8.0)
        self.assertIn("every 2 s", self.row("shelf_A").spoken)
        self.assertIn("%RH", self.row("shelf_A").spoken)
        self.assertIn("nothing has answered yet", self.row("spare").spoken)
        now = self.row("shelf_A").now
        assert now is not None
        # As often as is usual, and the sheet was found out: nobody knows yet how often that is.
        now = replace(now, setup=replace(now.setup, every_s=0.0, sheet=None))
        self.assertEqual("asked", replace(self.row("shelf_A"), now=now).doing)
        self.assertIsNone(self.row("spare").place)
        self.assertEqual("shelf_A", self.session.wire.title)
        self.cave.plug("shelf_A", False, self.now_us)
        self.tell(9.0)
        self.assertEqual("no answer", self.row("shelf_A").trouble)
        lately = self.page.wires._model.lately(self.row("shelf_A"))
        self.assertIn("%RH", lately.text)
        self.assertGreater(self.page.wires._model.passed_s(self.row("shelf_A")), 4.0)
        self.window.live.bar.renew()
        self.assertIn("no answer", self.window.live.bar.text)
        self.assertIn("rests high, as it should", self.window.live.bar.text)
        self.tell(0.5, here=False)
        self.assertIn("away", self.window.live.bar.text)
        self.assertEqual("the source is away", self.row("shelf_A").trouble)
        self.assertFalse(self.window.live.bar.ask.isEnabled())

    def test_goes_on(self) -> None:
        """Parts merge; what a person picked stays; readings stay when listening ends."""
        # Newer parts take the place of older ones; new wires come behind; unknown ones wait.
        self.tell(6.0)
        now = [wire_now(row) for row in self.listener.wires]
        wires, grown = merged((), Live(tuple(now)))
        self.assertTrue(grown)
        self.assertEqual({"shelf_A", "wheels"}, {row.title for row in wires})
        again, grown = merged(wires, Live(tuple(reversed(now))))
        self.assertFalse(grown)
        self.assertEqual([row.title for row in wires], [row.title for row in again])
        # What a card says of the interval.
        shown = self.row("shelf_A").now
        sheet = find_sheet("dht22")
        for setup, every_s in (
            (WireSetup("a", ("x",), sheet, 0.0), 2.0),
            (WireSetup("a", ("x",), sheet, 7.0), 7.0),
            (WireSetup("a", ("x",), sheet, None), None),
            (WireSetup("a", ("x",), None, 0.0), None),
        ):
            self.assertEqual(every_s, replace(shown, setup=setup).every_s)
        # A wire that the person chose stays chosen, whatever else becomes known.
        self.tell(4.0)
        at = [row.title for row in self.session.captures[0].wires].index("wheels")
        self.session.choose_wire((0, at))
        self.tell(6.0)
        self.assertEqual("wheels", self.session.wire.title)
        self.assertEqual(self.session.wire.end - 1, self.session.number)
        # Readings stay; what was changed of listening cannot be undone any more.
        self.tell(8.0)
        thread = ListeningThread("nowhere", self.bench, None)
        undo = self.session.undo
        undo.push(SetPace(thread, "shelf_A", (0.0, 1), (5.0, 1)))
        undo.push(RestWire(thread, "shelf_A", True))
        self.assertEqual(0, undo.count())
        self.session.end_live(self.kept)
        self.assertIsNone(self.session.live_now)
        self.assertFalse(self.window.live.bar.isVisible())
        self.assertIn("%RH", self.row("shelf_A").spoken)
        self.press("N")
        self.assertIn("not live", self.window.notice.text)


class LeftBehind(WindowTest):
    """Pivet ended all of a sudden."""

    def test_found_again(self) -> None:
        """A bench without a name that nobody has open is found; one in use is not."""
        keeper = BenchKeeper(self.window, self.session, self.window.jobs, self.folder)
        self.assertEqual([], keeper.left_behind())
        lost = BenchFile.create(self.folder / "lost.pivet")
        used = BenchFile.create(self.folder / "used.pivet")
        self.addCleanup(used.close)
        self.assertEqual([], keeper.left_behind())
        lost.close()
        self.assertEqual([lost.path], keeper.left_behind())
        own = keeper.need()
        self.assertNotEqual(own.path, lost.path)
        self.assertEqual([lost.path], keeper.left_behind())
        keeper.close()
        self.assertFalse(own.path.exists())
        self.assertTrue(lost.path.exists())

    def test_no_place(self) -> None:
        """A folder that cannot be made is said in a sentence."""
        blocked = self.folder / "a file"
        blocked.write_text("in the way", encoding="utf-8")
        live = self.window.live
        live.keeper = BenchKeeper(self.window, self.session, self.window.jobs, blocked / "unsaved")
        live.listen("/dev/no-such-port")
        self.assertIn("unsaved", self.window.notice.text)
        self.assertFalse(live.listens)
