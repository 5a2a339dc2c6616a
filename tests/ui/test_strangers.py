"""What strangers send, in the window: names are text, and nothing of the person's is changed."""

import json
import os
import signal
import sqlite3
import subprocess
import sys
import time
from pathlib import Path
from unittest import mock

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel, QWidget

from pivet.files.benchfile.store import BenchFile
from pivet.frozen import replace
from pivet.person.roles import Role, Roles
from pivet.person.stored import read_roles
from pivet.ui.drawing.widgets import plain_tip
from pivet.ui.readings.desktop import notify
from pivet.ui.window.signals import ENDING
from tests.base import CAPTURES, PivetTest
from tests.fuzz.samples import sample_bench
from tests.night import demo_night
from tests.patience import PATIENCE_S
from tests.ui.base import WindowTest

LISTENS = """
import sys
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication
from pivet.ui import app

def begin():
    window = next(w for w in QApplication.topLevelWidgets() if hasattr(w, "live"))
    window.live.listen(f"replay:{sys.argv[1]}")

app.make_app()
QTimer.singleShot(300, begin)
sys.exit(app.run(()))
"""
EVIL = "<b>evil</b><img src='file:///x'>&amp;"
CODE = "28-0000051b2c7d"


def takes_for_marks(widget: QWidget) -> list[str]:
    """Labels and tips of a window that would take a hostile name for marks."""
    found = []
    for part in [widget, *widget.findChildren(QWidget)]:
        if isinstance(part, QLabel) and part.textFormat() is not Qt.TextFormat.PlainText:
            found.append(part.text())
        found.append(part.toolTip())
    return [text for text in found if "<b>evil" in text or "<img" in text]


class Names(WindowTest):
    """Every widget shows hostile names as they are."""

    def test_every_label(self) -> None:
        """Wires, devices, files and roles have hostile names, in every view."""
        capture = demo_night()
        wires = tuple(
            replace(
                wire,
                title=f"{wire.label}{EVIL}",
                lines=tuple(replace(row, name=row.name + EVIL) for row in wire.lines),
            )
            for wire in capture.wires
        )
        self.session.put_roles(Roles((Role(f"core {EVIL}", (CODE,)),)))
        self.session.add_capture(
            replace(capture, path=Path(f"a{EVIL}".replace("/", "_")), wires=wires)
        )
        self.settle()
        self.window.notice.say(f"something {EVIL}", True)
        seen = 0
        for view in range(1, 5):
            self.press(f"Ctrl+{view}")
            self.finish_jobs()
            for at in range(len(wires)):
                self.session.choose_wire((0, at))
                self.settle()
                self.assertEqual([], takes_for_marks(self.window), (view, at))
                seen += len(self.window.findChildren(QLabel))
        self.assertGreater(seen, 200)

    def test_tips_of_rows(self) -> None:
        """Lists have tips, too."""
        capture = demo_night()
        wires = tuple(replace(wire, title=f"{wire.label}{EVIL}") for wire in capture.wires)
        self.session.add_capture(replace(capture, wires=wires))
        self.settle()
        model = self.page.wires._model
        for row in range(model.rowCount()):
            tip = str(model.index(row, 0).data(Qt.ItemDataRole.ToolTipRole) or "")
            self.assertNotIn("<b>evil", tip)

    def test_tips(self) -> None:
        """Only what could be marks is escaped."""
        self.assertEqual("wheel 1, core > 5", plain_tip("wheel 1, core > 5"))
        self.assertEqual("<span>a &lt; b</span>", plain_tip("a < b"))
        self.assertEqual("<span>salt &amp; brine</span>", plain_tip("salt & brine"))

    def test_notifications(self) -> None:
        """The text of a notification may hold marks by its standard, so ours are escaped."""
        sent = []

        def call(_address: object, _method: str, _form: str, body: tuple[object, ...]) -> None:
            sent.append(body)
            raise OSError

        with (
            mock.patch("jeepney.io.blocking.open_dbus_connection"),
            mock.patch("jeepney.new_method_call", call),
        ):
            self.assertFalse(notify("Pivet", f"{EVIL} is too wet"))
        self.assertNotIn("<", str(sent[0][4]))


class Benches(WindowTest):
    """A bench from somebody else."""

    def setUp(self) -> None:
        super().setUp()
        self.path = self.folder / "theirs.pivet"
        self.path.write_bytes(sample_bench(self.folder))
        self.roles_file = self.folder / "roles.json"
        self.window._settings.roles_path = self.roles_file

    def own(self) -> list[str]:
        """The names that the person has kept."""
        if not self.roles_file.exists():
            return []
        return [row["name"] for row in json.loads(self.roles_file.read_text())["roles"]]

    def test_its_names_stay_in_it(self) -> None:
        """Shown while it is open; kept only when the person takes them over; undone."""
        theirs = read_roles_of(self.path)
        self.open(self.path)
        self.assertEqual(set(theirs), {role.name for role in self.session.roles.roles})
        self.assertEqual([], self.own())
        self.assertIn("names of devices come from this bench", self.window.notice.text)
        self.window.take_over_names()
        self.assertEqual(theirs, self.own())
        self.press("Ctrl+Z")
        self.assertEqual([], self.own())
        self.window.live.keeper.close()
        self.assertEqual((), self.session.roles.roles)
        self.assertEqual(theirs, read_roles_of(self.path))

    def test_the_persons_names_go_first(self) -> None:
        """Their name for a device does not replace the person's, nor get into their file."""
        code = next(iter(self.codes()))
        self.session.put_roles(Roles((Role("my own", (code,)),)))
        self.open(self.path)
        self.assertEqual("my own", self.session.roles.names[code])
        self.assertEqual(["my own"], self.own())
        self.window.live.keeper.close()
        self.assertNotIn("my own", read_roles_of(self.path))

    def codes(self) -> list[str]:
        """The devices that have names in the bench."""
        bench = BenchFile.open(self.path)
        try:
            return [role.code for role in read_roles(bench).roles]
        finally:
            bench.close()

    def test_hostile_files(self) -> None:
        """Each is one sentence; what was open stays."""
        self.show_demo()
        for name, sql in (
            ("view", "CREATE VIEW v AS SELECT 1"),
            ("trigger", "CREATE TRIGGER t AFTER INSERT ON note BEGIN DELETE FROM note; END"),
            ("version", "PRAGMA user_version = -3"),
            ("family", "UPDATE wire SET family = 'no such'"),
        ):
            path = self.folder / f"{name}.pivet"
            path.write_bytes(self.path.read_bytes())
            connection = sqlite3.connect(path)
            connection.executescript(sql)
            connection.close()
            self.window.notice.say("", False)
            self.open(path)
            self.assertTrue(self.window.notice.text or self.window.live.keeper.bench, name)
            self.assertTrue(self.session.captures)

    def test_a_mark_that_cannot_be_written(self) -> None:
        """It is not told as made, and there is nothing to undo."""
        self.open(self.path)
        self.press("Ctrl+2")
        self.finish_jobs()
        store = self.window.views.store
        before = store.annotations
        bench = self.window.live.keeper.bench
        assert bench is not None
        pages = bench._connection.execute("PRAGMA page_count").fetchone()[0]
        bench._connection.execute(f"PRAGMA max_page_count = {pages}")
        undo = self.session.undo.count()
        many = before
        for number in range(3000):
            from pivet.person.annotations import Mark

            many = many.marked(Mark(number, f"mark {number} " + "x" * 200))
        store.change(many, "marks")
        self.settle()
        self.assertEqual(before.marks, store.annotations.marks)
        self.assertEqual(undo, self.session.undo.count())
        self.assertIn("cannot be written", self.window.notice.text)


def read_roles_of(path: Path) -> list[str]:
    """The names in a bench file."""
    bench = BenchFile.open(path)
    try:
        return [role.name for role in read_roles(bench).roles]
    finally:
        bench.close()


class Ends(PivetTest):
    """Told to end by the system."""

    def test_signals_close_the_window(self) -> None:
        """A closed terminal, as Ctrl-C and a polite kill: in order, and what was heard is kept."""
        self.assertLessEqual({signal.SIGINT, signal.SIGHUP, signal.SIGTERM}, set(ENDING))
        environment = {
            **os.environ,
            "QT_QPA_PLATFORM": "offscreen",
            "HOME": str(self.folder),
            "XDG_DATA_HOME": str(self.folder),
            "XDG_CONFIG_HOME": str(self.folder / "config"),
        }
        process = subprocess.Popen(
            [sys.executable, "-c", LISTENS, str(CAPTURES / "iv_ow_basic.vcd")],
            env=environment,
            stderr=subprocess.PIPE,
            text=True,
        )
        kept = self.folder / "pivet" / "unsaved"
        until = time.monotonic() + PATIENCE_S
        while time.monotonic() < until and not holds_exchanges(kept):
            time.sleep(0.1)
        process.send_signal(signal.SIGHUP)
        said = process.communicate(timeout=PATIENCE_S)[1]
        self.assertEqual(0, process.returncode, said)
        (path,) = kept.glob("*.pivet")
        bench = BenchFile.open(path)
        self.assertTrue(any(bench.count(row.id) for row in bench.wires()))
        bench.close()

    def test_no_display(self) -> None:
        """One sentence instead of a core dump."""
        hidden = ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")
        environment = {name: value for name, value in os.environ.items() if name not in hidden}
        done = subprocess.run(
            [sys.executable, "-m", "pivet", "open"],
            env=environment,
            capture_output=True,
            text=True,
            timeout=PATIENCE_S,
            check=False,
        )
        self.assertEqual(2, done.returncode)
        self.assertIn("pivet decode", done.stderr)
        self.assertIn("QT_QPA_PLATFORM", done.stderr)
        self.assertEqual(1, len(done.stderr.strip().splitlines()))


def holds_exchanges(folder: Path) -> bool:
    """Whether a bench without a name holds something by now."""
    for path in folder.glob("*.pivet"):
        connection = sqlite3.connect(f"{path.as_uri()}?mode=ro", uri=True)
        try:
            if connection.execute("SELECT count(*) FROM exchange").fetchone()[0] > 1:
                return True
        except sqlite3.Error:
            pass
        finally:
            connection.close()
    return False
