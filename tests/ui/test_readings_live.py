"""Readings over time while something is listened to: the live cave, and a real desktop bus."""

import subprocess
import threading
from pathlib import Path
from unittest import mock

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from pivet.captures.text import wire_names
from pivet.keeping.log import LogWish
from pivet.person.annotations import read_crossings
from pivet.readings.series import Sensor
from pivet.ui.readings import desktop
from pivet.ui.readings.limits import LimitsDialog
from tests.base import PivetTest
from tests.patience import PATIENCE_S
from tests.ui.test_live import LiveWindowTest

HUMIDITY = Sensor("shelf_A", "", "humidity")


class LiveReadings(LiveWindowTest):
    """The cave, over time."""

    def test_the_cave(self) -> None:
        """A log from the first reading on; the trend grows; a breath crosses a limit, once."""
        views = self.window.views
        log = self.folder / "log.csv"
        views.out.keep_log(LogWish(log, daily=False))
        self.assertIn("as soon as", self.window.notice.text)
        self.press("Ctrl+Shift+L")
        self.wait(lambda: self.value_of("shelf_A") > 0, "a reading of shelf A")
        self.check_log(log)
        self.press("Ctrl+2")
        store = views.store
        self.wait(lambda: HUMIDITY in store.sensors, "the trend knows shelf A")
        self.assertTrue(store.clock and store.live)
        self.session.choose_wire((0, wire_names(self.session.captures[0]).index("shelf_A")))
        count, moments = len(store.series(HUMIDITY) or ()), set()

        def grown() -> bool:
            moments.add(store.chosen_ns)
            return len(store.series(HUMIDITY) or ()) > count + 1

        self.wait(grown, "the trend grows")
        self.assertTrue(self.session.follows)
        self.assertNotIn(None, moments, "the newest exchange may not have been read yet")
        self.check_limit()
        self.check_glance()
        views.out.keep_log(None)
        self.press("Ctrl+Shift+.")
        self.assertIn("log.csv", [path.name for path in self.folder.iterdir()])

    def value_of(self, name: str) -> float:
        """What a card tells; nothing while it is not there."""
        there = [row for row in self.page.wires.rows if row.short == name]
        return self.value(name) if there else float("nan")

    def check_log(self, log: Path) -> None:
        """A line as soon as a reading is heard."""
        self.wait(log.exists, "the log begins")
        lines = log.read_text(encoding="utf-8").splitlines()
        self.assertTrue(lines[0].startswith("time,local_time,wire,role,device"))
        self.wait(lambda: "shelf_A" in log.read_text(encoding="utf-8"), "shelf A in the log")
        self.assertIn("log log.csv", self.window._file_label.text())

    def check_limit(self) -> None:
        """One notice in the window and one of the desktop; kept in the bench."""
        views = self.window.views
        dialog = LimitsDialog(self.session, views.store, HUMIDITY)
        dialog.has_high.setChecked(True)
        dialog.high.setValue(96.0)
        dialog.hysteresis.setValue(1.0)
        dialog.accept()
        self.press("Ctrl+1")
        self.assertEqual("exchange", views.kind.key)
        with mock.patch.object(desktop, "notify_later") as notified:
            self.breathe(lambda: "above 96 %RH" in self.window.notice.text, "the limit is told")
            self.wait(lambda: notified.call_count > 0, "the desktop is told")
            self.assertEqual(1, notified.call_count)
        bench = self.live.keeper.bench
        assert bench is not None
        self.wait(lambda: bool(read_crossings(bench)), "it stands in the bench")
        (kept,) = read_crossings(bench)
        self.assertEqual(HUMIDITY, kept[0])

    def check_glance(self) -> None:
        """A probe that is pulled off is never shown by its old value."""
        self.press("Ctrl+5")
        glance = self.window.views.glance
        assert glance is not None
        self.wait(lambda: "brine" in glance.accessibleName(), "the brine's probe")
        self.choose(self.pane.sensor, "brine")
        self.push("Pull off")
        self.wait(
            lambda: any(row.name.endswith(", brine") and row.reason for row in glance.shown),
            "why none",
        )
        row = next(row for row in glance.shown if row.name.endswith(", brine"))
        self.assertEqual((), row.values)
        glance.grab()
        QTest.keyClick(glance, Qt.Key.Key_Escape)


class Desktop(PivetTest):
    """Notifications over a real bus, to a service that stands in for the desktop."""

    def setUp(self) -> None:
        super().setUp()
        address = f"unix:path={self.folder / 'bus'}"
        config = self.folder / "bus.conf"
        config.write_text(
            "<!DOCTYPE busconfig PUBLIC '-//freedesktop//DTD D-Bus Bus Configuration 1.0//EN' "
            "'http://www.freedesktop.org/standards/dbus/1.0/busconfig.dtd'><busconfig>"
            f"<type>session</type><listen>{address}</listen><auth>EXTERNAL</auth>"
            "<policy context='default'><allow send_destination='*' eavesdrop='true'/>"
            "<allow eavesdrop='true'/><allow own='*'/></policy></busconfig>",
            encoding="utf-8",
        )
        self.bus = subprocess.Popen(
            ["dbus-daemon", f"--config-file={config}", "--nofork", "--print-address=1"],
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
        )
        self.addCleanup(self.end)
        assert self.bus.stdout is not None
        self.address = self.bus.stdout.readline().decode().strip()

    def end(self) -> None:
        """Ends the bus."""
        self.bus.kill()
        self.bus.wait()
        assert self.bus.stdout is not None
        self.bus.stdout.close()

    def serve(self, ready: threading.Event, heard: list[object]) -> None:
        """Answers one call, as a desktop does."""
        from jeepney import message_bus, new_method_return
        from jeepney.io.blocking import open_dbus_connection

        with open_dbus_connection(bus=self.address) as connection:
            connection.send_and_get_reply(message_bus.RequestName(desktop.SERVICE))
            ready.set()
            while True:
                message = connection.receive(timeout=PATIENCE_S)
                if message.header.message_type.value == 1:
                    heard.append(message.body)
                    connection.send(new_method_return(message, "u", (7,)))
                    return

    def test_notified(self) -> None:
        """Title and text arrive, with the types that the specification wants."""
        ready, heard = threading.Event(), []
        thread = threading.Thread(target=self.serve, args=(ready, heard))
        thread.start()
        self.addCleanup(thread.join)
        self.assertTrue(ready.wait(PATIENCE_S))
        with mock.patch.dict("os.environ", {"DBUS_SESSION_BUS_ADDRESS": self.address}):
            self.assertTrue(desktop.notify("Pivet", "shelf_A is above 96 %RH."))
        self.assertEqual(["Pivet", "shelf_A is above 96 %RH."], list(heard[0][3:5]))

    def test_no_desktop(self) -> None:
        """Nobody there, or no bus: no harm."""
        with mock.patch.dict("os.environ", {"DBUS_SESSION_BUS_ADDRESS": self.address}):
            self.assertFalse(desktop.notify("Pivet", "nobody hears"))
        with mock.patch.dict("os.environ", {"DBUS_SESSION_BUS_ADDRESS": "unix:path=/nowhere"}):
            self.assertFalse(desktop.notify("Pivet", "nobody hears"))
