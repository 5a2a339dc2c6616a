"""The views as the window knows them: by one interface, each made when it is first shown."""

import subprocess
import sys
import unittest
from collections.abc import Generator
from functools import partial
from unittest import mock

from PySide6.QtCore import QPoint, QRect, QSize, Qt
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QApplication

from pivet.ui.drawing.theme import ThemeChoice
from pivet.ui.help.pages import PAGES
from pivet.ui.registry import VIEWS
from pivet.ui.view import LEAST_SIZE, Around, InSight, TimePage, ViewKind, ViewPage
from tests.ui.base import WindowTest
from tests.ui.night import NightTest


class Registry(unittest.TestCase):
    """What is said of each view."""

    def test_told_apart(self) -> None:
        """By key, name and shortcut; each has a page of the help."""
        for what in ("key", "name", "shortcut"):
            self.assertEqual(len(VIEWS), len({getattr(kind, what) for kind in VIEWS}), what)
        self.assertLessEqual({kind.help for kind in VIEWS}, PAGES.keys())
        self.assertEqual(1, sum(kind.over_time for kind in VIEWS))

    def test_imported_when_made(self) -> None:
        """Knowing the views imports none of their pages."""
        code = (
            "import sys, pivet.ui.registry\n"
            "print([n for n in sys.modules if n.endswith('.page') or n == 'pyqtgraph'])"
        )
        done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True)
        self.assertEqual("[]", done.stdout.strip(), done.stderr)

    def test_loaded_ahead(self) -> None:
        """Beside the window nothing of Qt, then the page of every view, and what it draws with."""
        code = """
import sys
from pivet.ui.ahead import VIEWS, load_beside, steps
started = set(sys.modules)
load_beside()
beside = set(sys.modules) - started
print(len(beside) > 150, [n for n in beside if n.startswith(("PySide", "pivet.ui", "pyqtgraph"))])
list(steps())
print([k.key for k in VIEWS if f"pivet.ui.{k.key}.page" not in sys.modules])
print(hasattr(sys.modules["pyqtgraph"], "PlotItem"))
"""
        done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True)
        self.assertEqual(["True []", "[]", "True"], done.stdout.splitlines(), done.stderr)


class Ready(WindowTest):
    """A moment after the start."""

    def test_made_ahead(self) -> None:
        """Every view is made, none is shown, and each then comes as it would have."""
        views = self.window.views
        self.show_demo()
        views.get_ready()
        self.wait_for(lambda: len(views._pages) == len(VIEWS), "all are made")
        self.assertIs(VIEWS[0], views.kind)
        for kind in VIEWS:
            page = views._pages[kind.key]
            self.assertEqual(kind is VIEWS[0], page.isVisible())
            views.show_view(kind.key)
            self.assertIs(page, views.page)
            self.assertTrue(page.isVisible())

    def test_asked_for_too_early(self) -> None:
        """It comes when it is loaded, as it was wanted."""
        views = self.window.views
        self.show_demo()
        views.get_ready()
        views._show_last(600.0)
        self.assertIs(VIEWS[0], views.kind)
        self.assertNotIn("trend", views._pages)
        self.assertEqual(Qt.CursorShape.BusyCursor, self.window.cursor().shape())
        self.wait_for(lambda: views.kind.key == "trend", "it is shown")
        self.wait_for(lambda: views.in_sight() is not None, "its readings are there")
        self.finish_jobs()
        sight = views.in_sight()
        assert sight is not None
        self.assertAlmostEqual(600.0, (sight.to_ns - sight.from_ns) / 1e9, delta=15.0)
        self.assertNotEqual(Qt.CursorShape.BusyCursor, self.window.cursor().shape())

    def test_loaded_in_pieces(self) -> None:
        """For 5 ms between two events; for 30 while a person waits for what is loaded."""
        views, now = self.window.views, [0.0]

        def steps() -> Generator[None, None, None]:
            while True:
                now[0] += 0.002
                yield

        clock, queue = mock.Mock(monotonic=lambda: now[0]), "pivet.ui.views.turns"
        for wanted, count in ((None, 3), (("margins", lambda _: None), 15)):
            views._wanted = wanted
            before = now[0]
            with mock.patch("pivet.ui.views.time", clock), mock.patch(queue) as later:
                views._steps = steps()
                views._load_on()
            self.assertEqual(count, round((now[0] - before) / 0.002))
            later().add.assert_called_once_with(views, views._load_on)
        views._steps.close()

    def test_made_while_loading(self) -> None:
        """A page that cannot wait has all loaded before it is made: nothing half is used."""
        views, left = self.window.views, [1, 2, 3]

        def steps() -> Generator[None, None, None]:
            while left:
                yield left.pop()

        with mock.patch("pivet.ui.ahead.steps", steps):
            views.get_ready()
            views.page_of("trend")
            self.assertEqual([], left)
            self.wait_for(lambda: not views._loads, "loading has ended")

    def test_closed_while_loading(self) -> None:
        """What was half loaded goes."""
        views, ended = self.window.views, list[bool]()

        def steps() -> Generator[None, None, None]:
            try:
                while True:
                    yield
            finally:
                ended.append(True)

        with mock.patch("pivet.ui.ahead.steps", steps):
            views.get_ready()
        views._load_on()
        self.window.close()
        self.wait_for(lambda: ended == [True], "it has ended")

    def test_marked_while_loading(self) -> None:
        """The mark waits until all is loaded, and is made then."""
        views = self.window.views
        self.show_demo()
        views.get_ready()
        views.mark()
        self.assertNotIn("trend", views._pages)
        self.wait_for(lambda: len(views.store.annotations.marks) == 1, "it was made")
        self.finish_jobs()
        self.assertEqual(1, len(views.store.annotations.marks))

    def test_what_cannot_be_loaded(self) -> None:
        """It is told, and views are made when they are asked for; what was asked last counts."""
        views = self.window.views
        told: list[type] = []
        sys.excepthook = lambda kind, *_: told.append(kind)

        def broken() -> Generator[None, None, None]:
            yield
            raise ImportError

        for name, fails in (("load_beside", mock.Mock(side_effect=ImportError)), ("steps", broken)):
            with mock.patch(f"pivet.ui.ahead.{name}", fails):
                views.get_ready()
                views.show_view("margins")
                views.show_view("exchange")
                self.wait_for(lambda: not views._loads, "loading has ended")
            self.assertEqual("exchange", views.kind.key)
            views.show_view("margins")
            self.assertEqual("margins", views.kind.key)
            views._pages.pop("margins")
            views.show_view("exchange")
        self.assertEqual([ImportError] * 2, told)


class Pages(NightTest):
    """The pages, by their interface alone."""

    def test_each(self) -> None:
        """Zooms, shows all, fits, is renewed and pointed out, in the smallest window.

        F6 goes through its parts; each has a name and comes in sight.
        """
        self.window.resize(*LEAST_SIZE)
        for kind in VIEWS:
            with self.subTest(kind.name):
                page = self.go(kind.key)
                assert isinstance(page, ViewPage)
                self.assertEqual(kind.over_time, isinstance(page, TimePage))
                self.assertEqual(kind.over_time, isinstance(self.views.in_sight(), InSight))
                for do in (page.show_all, page.fit, page.point_out, page.renew):
                    do()
                    self.settle()
                for notches in (1, -1):
                    page.zoom(notches)
                self.finish_jobs()
            self.assertEqual(QSize(*LEAST_SIZE), self.window.size(), kind.name)
            parts = [part for part in page.parts if part.isVisible() and part.isEnabled()]
            self.assertTrue(parts, kind.name)
            parts[-1].setFocus()
            for part in parts:
                with self.subTest(kind.name, part=part.accessibleName()):
                    self.key(Qt.Key.Key_F6)
                    self.assertIs(part, QApplication.focusWidget())
                    self.assertTrue(part.accessibleName())
                    place = self.views.stack.currentWidget()
                    shown = QRect(part.mapTo(place, QPoint()), part.size())
                    seen = shown & place.rect()
                    self.assertGreater(seen.width() * seen.height(), 1000)
            self.key(Qt.Key.Key_F6, Qt.KeyboardModifier.ShiftModifier)
            self.assertIs(parts[len(parts) - 2], QApplication.focusWidget())

    def test_menus_and_signals(self) -> None:
        """Keys of the menu, the time in sight, and signals of any page."""
        # Each view has its entry, with the shortcut that it says.
        entries = {
            action.text().replace("&", ""): action.shortcut().toString()
            for action in self.window.findChildren(QAction)
        }
        for kind in VIEWS:
            self.assertEqual(kind.shortcut, entries[kind.name])
        taken: dict[str, set[str]] = {}
        for action in self.window.findChildren(QAction):
            for shortcut in action.shortcuts():
                taken.setdefault(shortcut.toString(), set()).add(action.text())
        self.assertEqual({}, {keys: by for keys, by in taken.items() if len(by) > 1})
        # A view over time says what it shows.
        page = self.views.over_time
        self.go("trend")
        page.look_at(10 * 10**9, 70 * 10**9)
        self.settle()
        sight = page.in_sight()
        self.assertAlmostEqual(60.0, (sight.to_ns - sight.from_ns) / 1e9, delta=1.0)
        self.assertTrue(sight.sensors)
        # A page that nobody knows is listened to like all others.
        made: list[ViewPage] = []

        def make(around: Around) -> ViewPage:
            self.assertIs(self.window.session, around.session)
            made.append(ViewPage())
            return made[-1]

        kind = ViewKind("spare", "Spare", "Ctrl+9", "stack", make)
        page = self.views._added(kind)
        self.assertEqual([page], made)
        self.go("trend")
        page.exchange_asked.emit()
        self.settle()
        self.assertEqual("exchange", self.views.kind.key)
        page.time_asked.emit(0)
        self.finish_jobs()
        self.assertEqual("trend", self.views.kind.key)

    def test_help_and_other_colours(self) -> None:
        """F1 tells of the view that is shown; of other colours every page that was made is told."""
        told: list[str] = []
        for kind in VIEWS:
            self.go(kind.key)
            with mock.patch.object(self.window, "show_help") as show:
                self.key(Qt.Key.Key_F1)
            show.assert_called_once_with(kind.help)
            self.views.page.renew = partial(told.append, kind.key)
        self.window.choose_theme(ThemeChoice.DARK)
        self.settle()
        self.assertEqual([kind.key for kind in VIEWS], told[-len(VIEWS) :])
