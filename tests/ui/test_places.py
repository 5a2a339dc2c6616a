"""What single places of the window say: start page, devices, answer, keeper of the bench."""

from datetime import datetime
from pathlib import Path
from types import SimpleNamespace
from unittest import mock

import numpy as np
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QColor, QImage
from PySide6.QtWidgets import QInputDialog, QLabel, QPushButton

from pivet.bench.demo import DEMO_ROLES
from pivet.bench.live_bench import News
from pivet.captures.last_readings import given_before
from pivet.files.benchfile.store import BenchFile
from pivet.frozen import replace
from pivet.judge.wording import age
from pivet.listening import events as ev
from pivet.person.annotations import read_annotations, write_annotations
from pivet.person.roles import Roles
from pivet.readings.correction import by_offset
from pivet.readings.limits import Limit
from pivet.readings.series import Sensor
from pivet.signal.trace import Level
from pivet.sources.source import About, Gap, LineInfo
from pivet.ui.bench.keeper import BenchKeeper
from pivet.ui.drawing.theme import theme
from pivet.ui.readings import store as store_module
from pivet.ui.readings.lines import styles_of
from pivet.ui.trend.choice import ChoicePanel
from pivet.ui.window.empty import EmptyPage, shown_folder
from tests.night import copy_of_sparse_night
from tests.ui.base import WHEELS, WheelsTest, WindowTest, texts


class Start(WindowTest):
    """The page that stands where nothing is open."""

    def test_folders(self) -> None:
        """One's own home is a tilde, as a whole or at the beginning; long ones lose the middle."""
        home = str(Path.home())
        self.assertEqual("~", shown_folder(Path(home) / "a.vcd"))
        self.assertEqual("~/b", shown_folder(Path(home) / "b" / "a.vcd"))
        self.assertEqual(f"{home}y", shown_folder(Path(f"{home}y") / "a.vcd"))
        for length, cut in ((60, False), (61, True)):
            folder = "/" + "".join(chr(97 + at % 26) for at in range(length - 1))
            found = shown_folder(Path(folder) / "a.vcd")
            self.assertEqual(cut, found != folder)
            if cut:
                self.assertEqual(f"{folder[:20]}…{folder[-30:]}", found)

    def test_recent(self) -> None:
        """Six at most, each with its whole path as a tip; a click opens it."""
        page = EmptyPage()
        self.addCleanup(page.deleteLater)
        asked: list[object] = []
        page.recent_asked.connect(asked.append)
        for count, shown in ((0, 0), (1, 1), (6, 6), (7, 6)):
            paths = [Path(f"/captures/night{at}.vcd") for at in range(count)]
            page.show_start(paths)
            self.settle()
            links = [row for row in page.findChildren(QPushButton) if row.isFlat()]
            self.assertEqual(shown, len(links))
            said = [row.text() for row in page.findChildren(QLabel)]
            self.assertEqual(bool(count), "Opened lately" in said)
        self.assertEqual("night2.vcd   /captures", links[2].text())
        self.assertEqual("/captures/night2.vcd", links[2].toolTip())
        links[2].click()
        self.assertEqual([paths[2]], asked)

    def test_a_place_to_drop(self) -> None:
        """Seen at the start and not where a capture is open; its edge is of dashes."""
        place = self.window.empty._place
        self.assertTrue(place.isVisible())
        image = QImage(place.size(), QImage.Format.Format_RGB32)
        image.fill(QColor("white"))
        place.render(image, QPoint())
        row = [image.pixelColor(x, 1).lightness() for x in range(20, image.width() - 20)]
        inked = np.array(row) < max(row) - 10
        dashes = int((np.diff(inked.astype(int)) == 1).sum())
        self.assertGreater(dashes, 20)
        capture = SimpleNamespace(name="x.vcd", others=("valve", "fan"), offers=(), trace=None)
        with mock.patch("pivet.ui.window.empty.offers_of", return_value=[]):
            self.window.empty.show_nothing_found(capture)  # type: ignore[arg-type]
            self.settle()
            self.assertFalse(place.isVisible())
            self.assertIn("If you know better", texts(self.window.empty))
            capture.others = ()
            self.window.empty.show_nothing_found(capture)  # type: ignore[arg-type]
            self.assertNotIn("If you know better", texts(self.window.empty))


class Devices(WheelsTest):
    """The list of a wire's devices."""

    def setUp(self) -> None:
        super().setUp()
        self.panel = self.page.devices

    def test_listed(self) -> None:
        """Words, what is chosen, names, and how it is painted."""
        # How many, what a tip tells of each, what a reader of the screen says.
        self.assertIn("5 devices, in search order", texts(self.panel))
        item = self.panel.devices.item(0)
        tip = item.toolTip()
        self.assertEqual("10-000802b3a1c4\nthermometer, 9 bit\nread 120 times, 1 in vain", tip)
        spoken = item.data(Qt.ItemDataRole.AccessibleTextRole)
        self.assertTrue(spoken.startswith("brine 10-000802b3a1c4 "), spoken)
        self.assertIn("°C", spoken)
        # As many marks as there is room for; what is silent is told in its colour.
        view = self.panel.devices
        at = next(at for at, row in enumerate(self.panel.rows) if row.silent_since_ns is not None)
        red = theme().unsound

        def reds(row: int) -> int:
            box = view.visualItemRect(view.item(row))
            image = view.viewport().grab(box).toImage()
            return sum(
                abs(image.pixelColor(x, y).hue() - red.hue()) < 8
                and image.pixelColor(x, y).saturation() > 90
                for x in range(image.width() // 2, image.width())
                for y in range(image.height())
            )

        view.setCurrentRow(-1)
        self.settle()
        self.assertGreater(reds(at), 20)
        sound = next(
            row
            for row, device in enumerate(self.panel.rows)
            if device.silent_since_ns is None and not device.failures
        )
        self.assertLess(reds(sound), 5)
        whole = self.panel.whole_height
        self.panel.resize(self.panel.width(), whole)
        self.assertGreater(whole, 5 * 30)

    def test_chosen_and_named(self) -> None:
        """Its device; none where it is about none; names from a form."""
        wire = self.session.wire
        rows = [self.session.wire.report(at).device for at in range(60)]
        at = next(at for at, code in enumerate(rows) if code)
        self.session.choose_exchange(at)
        self.assertEqual(rows[at], self.panel.current.code)
        self.panel.devices.setCurrentRow(4)
        self.panel.renew()
        self.assertEqual(self.panel.rows[4].code, self.panel.current.code)
        none = next(at for at, code in enumerate(rows) if not code)
        self.session.choose_exchange(none)
        self.assertIsNone(self.panel.current)
        self.panel.show_last()
        self.assertEqual(none, self.session.index)
        self.panel.ask_name()
        self.panel.ask_replacement()
        self.panel.devices.setCurrentRow(0)
        self.panel.show_last()
        self.assertEqual(self.panel.rows[0].exchange, self.session.index)
        self.assertGreater(len(wire), self.session.index)
        # Nothing without an answer; a device without a role goes by its code.
        nameless = next(at for at, row in enumerate(self.panel.rows) if not row.role)
        code = self.panel.rows[nameless].code
        self.panel.devices.setCurrentRow(nameless)
        with mock.patch.object(QInputDialog, "getText", return_value=("x", False)) as asked:
            self.panel.ask_name()
        self.assertIn(code, asked.call_args[0][2])
        self.assertNotIn(code, self.session.roles.names)
        with mock.patch.object(QInputDialog, "getItem", return_value=("x", False)) as asked:
            self.panel.ask_replacement()
        self.assertEqual(4, len(asked.call_args[0][3]))
        self.assertFalse(any(text.startswith(code) for text in asked.call_args[0][3]))
        self.assertIn(f"“{code}”", asked.call_args[0][2])
        other = self.panel.rows[0].code
        self.panel.replace_device(self.panel.rows[nameless], other)
        self.assertEqual(code, self.session.roles.names[other])


class Answer(WindowTest):
    """What stands beside the exchange."""

    def setUp(self) -> None:
        super().setUp()
        self.session.put_roles(DEMO_ROLES)
        self.show_demo()
        self.settle()
        self.panel = self.page.answer

    def test_shown(self) -> None:
        """Sheets, values, and what was read last."""
        # Said where an exchange gives none and need not, with how long before it was.
        self.session.choose_wire(WHEELS)
        wire = self.session.wire
        round_of = next(
            at for at in range(40, 80) if not wire.report(at).due and not wire.report(at).gap
        )
        self.session.choose_exchange(round_of)
        self.settle()
        said = texts(self.panel)
        last = given_before(wire, round_of)
        passed_s = (wire.report(round_of).end_ns - last.end_ns) / 1e9
        self.assertGreater(passed_s, 1.0)
        self.assertIn(f"Last read, {age(passed_s)} before:\n", said)
        self.session.choose_exchange(0)
        self.settle()
        self.assertNotIn("Last read", texts(self.panel))
        self.session.choose_wire((0, 0))
        self.settle()
        # Recognised first, then every sheet of the family; a chosen one stands in its place.
        box = self.panel.sheet
        self.assertTrue(box.itemText(0).startswith("recognised: "))
        self.assertEqual(0, box.currentIndex())
        sheets = self.session.wire.family.sheets
        self.assertEqual(1 + len(sheets), box.count())
        self.assertTrue(box.itemText(1).endswith(f"({sheets[0].id})"))
        self.session.edits.change_sheet(sheets[-1])
        self.finish_jobs()
        self.assertEqual((len(sheets), "recognise"), (box.currentIndex(), box.itemText(0)))
        box.setCurrentIndex(1)
        self.panel.renew()
        self.assertEqual(len(sheets), box.currentIndex())
        self.assertTrue(box.isEnabled())
        self.press("Ctrl+Z")
        # Read values large, what follows from them smaller and by name, refused ones struck.
        said = texts(self.panel)
        size = self.panel.font().pointSizeF()
        self.assertIn(f"font-size:{size * 2.6:.0f}pt; font-weight:700", said)
        self.assertNotIn("corrected", said)
        sensor = Sensor("shelf_A", "", "humidity")
        shown = self.session.shown
        self.session.show_as(replace(shown, corrections={sensor: by_offset(2.0)}))
        self.settle()
        self.assertRegex(texts(self.panel), r"corrected .*; read \d+\.\d %RH")
        self.window.close_capture()
        self.settle()
        self.panel.renew()
        self.assertEqual("No exchange", self.panel._headline.text())
        self.assertFalse(box.isEnabled())


class Sentences(WindowTest):
    """What listening tells, as the window says it."""

    def test_each(self) -> None:
        """Trouble in its colour; names of devices; nothing for what is shown elsewhere."""
        live = self.window.live.listening
        self.session.put_roles(Roles().named("28-00000000000a", "core"))
        said: list[tuple[str, bool]] = []
        known: list[object] = []
        live.said.connect(lambda text, trouble: said.append((text, trouble)))
        live.known.connect(lambda *row: known.append(row))
        about = About("cave", (LineInfo("x"),), 1)
        found = mock.Mock()
        events = (
            ev.Away("The probe is not there."),
            ev.Opened(about, again=True),
            ev.Opened(about, again=False),
            ev.Ended(),
            ev.Note("the disk is full"),
            ev.Note("it is busy", "shelf_A"),
            ev.Silent("wheels", "28-00000000000a", "nobody answered"),
            ev.Silent("shelf_A", "", "no answer", "rests high"),
            ev.Back("wheels", "28-00000000000b"),
            ev.Missed("x", Gap(0, 1, Level.HIGH)),
            ev.Known("x", found),
        )
        live._tell(News(events, (), True, False, 0, 0))
        self.assertEqual(
            [
                ("The probe is not there. It is looked for every second.", True),
                ("cave is back; listening goes on.", False),
                ("The replay is over.", False),
                ("the disk is full", True),
                ("shelf_A: it is busy", True),
                ("wheels, core gives no reading any more: nobody answered.", True),
                ("shelf_A gives no reading any more: no answer.", True),
                ("wheels, 28-00000000000b gives readings again.", False),
            ],
            said,
        )
        self.assertEqual([("x", found)], known)

    def test_ends(self) -> None:
        """Each source is told to end, once; until the last has ended it is said that they end."""
        live = self.window.live.listening
        threads = [mock.Mock(), mock.Mock()]
        live._threads = [*threads]
        self.addCleanup(live._threads.clear)
        live.end_one(threads[0])
        self.assertFalse(live.ends)
        live.end()
        live.end()
        self.assertTrue(live.ends)
        self.assertEqual([1, 1], [thread.end.call_count for thread in threads])

    def test_without_a_live_wire(self) -> None:
        """Asking and its pace need one; stopping needs something to stop."""
        self.show_demo()
        self.assertIn("is not live", self.window.live.listening.ask_now())
        for act in (self.window.live.ask_now, self.window.live.change_pace):
            self.window.notice.hide()
            act()
            self.assertIn("This wire is not live", self.window.notice.text)
        self.window.live.listening.change(5.0, 1)
        self.window.live.listening.rest()
        self.assertFalse(self.session.undo.canUndo())


class Keeper(WindowTest):
    """The bench of the window."""

    def setUp(self) -> None:
        super().setUp()
        self.keeper = self.window.live.keeper
        self.said: list[tuple[str, bool]] = []
        self.keeper.said.connect(lambda *row: self.said.append(row))

    def test_names_of_benches_without_one(self) -> None:
        """The moment; a second one of the same moment is told apart, and none replaces another."""
        with mock.patch("pivet.ui.bench.keeper.datetime") as clock:
            clock.now.return_value = datetime(2026, 3, 7, 21, 0, 5)
            first = self.keeper.need()
            self.assertIs(first, self.keeper.need())
            self.assertEqual("2026-03-07 21.00.05.pivet", first.path.name)
            self.assertTrue(self.keeper.unnamed)
            self.assertEqual("bench without a name", self.keeper.title)
            self.keeper.bench = None
            second = self.keeper.need()
        self.assertEqual("2026-03-07 21.00.05 2.pivet", second.path.name)
        first.close()
        self.keeper.throwaway = True

    def test_left_behind(self) -> None:
        """Only benches, and only those that nobody has open."""
        folder = self.folder / "unnamed"
        folder.mkdir()
        keeper = BenchKeeper(self.window, self.session, self.window.jobs, folder)
        self.assertEqual([], keeper.left_behind())
        BenchFile.create(folder / "old.pivet").close()
        used = BenchFile.create(folder / "used.pivet")
        self.addCleanup(used.close)
        (folder / "rubbish.pivet").write_bytes(b"nothing")
        self.assertEqual([folder / "old.pivet"], keeper.left_behind())
        nowhere = BenchKeeper(self.window, self.session, self.window.jobs, folder / "none")
        self.assertEqual([], nowhere.left_behind())

    def test_open_already(self) -> None:
        """The same file is not opened twice, whatever it is called."""
        path = copy_of_sparse_night(self.folder)
        self.open(path)
        bench = self.keeper.bench
        (self.folder / "sub").mkdir()
        self.keeper.open(self.folder / "sub" / ".." / path.name)
        self.assertEqual((f"{path.name} is open already.", False), self.said[-1])
        self.assertIs(bench, self.keeper.bench)
        self.keeper.save_as(path)
        says = f"{path.name} is up to date: all is written as it comes."
        self.assertEqual((says, False), self.said[-1])
        self.assertFalse(self.keeper.unnamed)

    def test_nothing_to_save(self) -> None:
        """Said, without trouble; a bench without exchanges says so when it is opened."""
        self.keeper.save_as(self.folder / "x.pivet")
        self.assertEqual(
            ("There is no bench yet: listen to something, or open one.", False), self.said[-1]
        )
        BenchFile.create(self.folder / "empty.pivet").close()
        self.open(self.folder / "empty.pivet")
        self.assertIn("empty.pivet holds no exchange yet.", [text for text, _ in self.said])


class Choice(WindowTest):
    """Which series are shown unasked."""

    def setUp(self) -> None:
        super().setUp()
        self.panel = ChoicePanel(self.window)
        self.addCleanup(self.panel.deleteLater)

    def listed(self, count: int, wire: str = "") -> list[Sensor]:
        """So many wires with humidity, temperature and dew point; what is checked."""
        names = ("humidity", "temperature", "dew point")
        rows = [Sensor(f"w{at:02}", "", name) for at in range(count) for name in names]
        derived = [row for row in rows if row.quantity == "dew point"]
        self.panel.renew(rows, derived, styles_of(rows), (), wire)
        return self.panel.checked

    def test_chosen(self) -> None:
        """Few at once, many beside the window, what takes a moment never."""
        # All that was measured; nothing that follows from it.
        self.assertEqual({"humidity", "temperature"}, {row.quantity for row in self.listed(12)})
        self.assertEqual(24, len(self.panel.checked))
        self.assertNotIn("of", self.panel._title.text())
        # Two dozen, the chosen wire's among them; what is hidden or shown by hand stays so.
        self.panel = ChoicePanel(self.window)
        self.addCleanup(self.panel.deleteLater)
        first = self.listed(60, "w55")
        self.assertEqual(24, len(first))
        self.assertEqual(2, sum(row.wire == "w55" for row in first))
        self.assertTrue(self.panel._title.text().endswith(": 24 of 180"))
        self.panel.check(first[0], False)
        dew = Sensor("w40", "", "dew point")
        self.panel.check(dew, True)
        again = self.listed(60, "w50")
        self.assertEqual({*first[1:], dew}, set(again))
        self.assertEqual({*again}, set(self.listed(61, "w60")))

    def test_what_takes_a_moment(self) -> None:
        """Sixty wires of ten exchanges are read beside the window; six are not."""
        self.assertTrue(store_module._is_little(400, 6))
        self.assertFalse(store_module._is_little(401, 6))
        self.assertFalse(store_module._is_little(600, 60))


class Views(WindowTest):
    """What the bar of views and its menus do."""

    def test_what_stretches_are_shown(self) -> None:
        """Ten minutes, an hour; the view that shows time comes for it."""
        self.open(copy_of_sparse_night(self.folder))
        views = self.window.views
        rows = {entry.text.replace("&", ""): entry for entry in views.entries() if entry}
        for text, seconds in (("Last ten minutes", 600), ("Last hour", 3600)):
            views.show_view("exchange")
            rows[text].run()
            self.finish_jobs()
            sight = views.over_time.in_sight()
            self.assertEqual("trend", views.kind.key)
            self.assertAlmostEqual(
                seconds, (sight.to_ns - sight.from_ns) / 1e9, delta=0.05 * seconds
            )

    def test_limits_are_watched(self) -> None:
        """Those of a bench act as soon as it is open, and go with it."""
        path = copy_of_sparse_night(self.folder)
        bench = BenchFile.open(path)
        sensor = Sensor("wash_room", "", "humidity")
        given = read_annotations(bench)
        write_annotations(bench, given, given.limited(sensor, Limit(high=10.0)))
        bench.close()
        self.open(path)
        self.finish_jobs()
        self.assertEqual({sensor}, set(self.window.live.limits))
        self.assertIn(self.window.views, self.window.views.store._viewers)
        self.assertTrue(self.window.views.store.crossings)
        self.window.close_capture()
        self.settle()
        self.assertEqual({}, self.window.live.limits)

    def test_no_limits_without_readings(self) -> None:
        """Said in a sentence."""
        self.window.views.ask_limits()
        self.settle()
        self.assertIn("no readings yet that could have limits", self.window.notice.text)

    def test_units(self) -> None:
        """What is shown now, and what else there is."""
        self.press("Shift+U")
        self.assertRegex(self.window.notice.text, r"^Length is shown in \S+ \(also: ")
        before = self.window.notice.text
        self.press("Shift+U")
        self.assertNotEqual(before, self.window.notice.text)
        self.press("U")
        self.assertTrue(self.window.notice.text.startswith("Temperature is shown in °F (also: °C"))
