"""Pictures of the demo night, made without a display."""

import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QMessageLogContext, QtMsgType, qInstallMessageHandler
from PySide6.QtWidgets import QApplication

from pivet.bench.demo import DEMO_ROLES, demo_capture
from pivet.bench.demo_night import FILE, record_night
from pivet.decode.humidity import layout
from pivet.ui.app import make_app
from pivet.ui.drawing.pictures import write_picture
from pivet.ui.drawing.theme import ThemeChoice, apply_theme, dress
from pivet.ui.registry import VIEWS
from pivet.ui.session.session import Session
from pivet.ui.window.by_hand import ByHandPane
from pivet.ui.window.main_window import MainWindow
from pivet.ui.work.turns import turns

SUM_WRONG, CUT_SHORT, WEAK = 158, 261, 33
POWER_ON, PROBE_GONE, FOAM = 330, 314, 118
SHELF, WHEELS, VAT, CHILLER, DOOR, NODE = ((0, number) for number in (0, 2, 3, 4, 5, 6))
BREATH_WIRES, BREATH_SHOWN = 6, 8
PATIENCE_S = 30.0
UNSEEN = "This plugin does not support"
KERNEL = "a2 00 4b 46 7f ff 0c 10 74 : crc=74 YES\na2 00 4b 46 7f ff 0c 10 74 t=10125"


def _on_message(_kind: QtMsgType, _where: QMessageLogContext, text: str | None) -> None:
    """What an unseen window cannot do is nothing that anybody must know."""
    if text and not text.startswith(UNSEEN):
        sys.stderr.write(f"{text}\n")


def write_demo_pictures(folder: Path) -> None:
    """Writes one picture of each view to a folder.

    Raises:
        OutputError: a file cannot be written.
    """
    qInstallMessageHandler(_on_message)
    app = make_app()
    apply_theme(app, ThemeChoice.LIGHT)
    window = MainWindow(remembers=False)
    window.show()
    _settle(app)
    write_picture(window, folder / "start.png", scale=1)
    session = window.session
    session.put_roles(DEMO_ROLES)
    session.add_capture(demo_capture())
    session.choose_wire(SHELF)
    session.choose_exchange(SUM_WRONG)
    report = session.report
    if report is not None and report.findings:
        session.choose_pulses(frozenset(report.findings[0].columns))
    _settle(app)
    write_picture(window, folder / "exchange.png", scale=1)
    write_picture(window.views.page, folder / "exchange.svg")
    session.choose_wire(CHILLER)
    session.choose_exchange(WEAK)
    _settle(app)
    write_picture(window, folder / "slow-rise.png", scale=1)
    session.choose_wire(DOOR)
    _settle(app)
    write_picture(window, folder / "wrong-type.png", scale=1)
    for wire, index, name in (
        (WHEELS, POWER_ON, "onewire"),
        (WHEELS, PROBE_GONE, "search"),
        (VAT, FOAM, "echo"),
    ):
        session.choose_wire(wire)
        session.choose_exchange(index)
        _settle(app)
        write_picture(window, folder / f"{name}.png", scale=1)
    _write_by_hand(app, folder / "by-hand.png")
    _write_many(app, window, folder)
    apply_theme(app, ThemeChoice.DARK)
    _settle(app)
    session.choose_wire(SHELF)
    session.choose_exchange(CUT_SHORT)
    session.choose_pulses(frozenset({layout.high_column(11)}))
    window.views.page.measure()
    window.views.page.renew()
    _settle(app)
    write_picture(window, folder / "dark.png", scale=1)
    window.close()
    apply_theme(app, ThemeChoice.LIGHT)
    _write_night(app, folder)
    _write_live(app, folder)


def _write_many(app: QApplication, window: MainWindow, folder: Path) -> None:
    """What many exchanges say: the node whose firmware fails."""
    views = window.views
    for kind in VIEWS:
        if kind.many:
            window.session.choose_wire(NODE)
            views.show_view(kind.key)
            for _ in range(2):
                _wait(app, lambda: not window.jobs.busy and not views.page.busy)
                _settle(app)
                views.page.point_out()
            _wait(app, lambda: not window.jobs.busy and not views.page.busy)
            _settle(app)
            write_picture(window, folder / f"{kind.key}.png", scale=1)
    views.show_view(VIEWS[0].key)


def _write_night(app: QApplication, folder: Path) -> None:
    """A whole night's readings: curves, agreement, what needs attention."""
    window = MainWindow(remembers=False)
    window.show()
    with tempfile.TemporaryDirectory() as place:
        path = Path(place) / FILE
        record_night(path)
        window.open_files([path])
        _wait(app, lambda: not window.jobs.busy and window.session.wire is not None)
        views = window.views
        window.notice.hide()  # that the night has names of its own is read once
        window.session.choose_wire((0, 1))
        for kind in VIEWS[1:]:
            if kind.many:
                continue
            views.show_view(kind.key)
            _wait(app, lambda: not window.jobs.busy and bool(views.store.sensors))
            _settle(app)
            views.page.point_out()
            _wait(app, lambda: not window.jobs.busy and not views.store.background.busy)
            _settle(app)
            write_picture(window, folder / f"{kind.key}.png", scale=1)
        window.close()


def _write_live(app: QApplication, folder: Path) -> None:
    """The live cave: a breath on shelf A, a probe pulled off; how a wire is added."""
    window = MainWindow(remembers=False)
    live = window.live
    live.listen_to_cave()
    window.show()
    cave, session = live.cave, window.session
    if cave is not None and _wait(app, lambda: _all_read(session, BREATH_WIRES)):
        cave.order("breathe shelf_A")
        cave.order("unplug wheel_2")
        _wait(app, lambda: "wheel 2" in window.notice.text)
        _wait(app, lambda: session.follows and session.number > BREATH_SHOWN)
        _settle(app)
        write_picture(window, folder / "live.png", scale=1)
        window.views.show_glance()
        glance = window.views.glance
        if glance is not None:
            _settle(app)
            write_picture(glance, folder / "glance.png", scale=1)
            glance.close()
        _write_adding(app, window, folder / "add-wire.png")
    live.keeper.throwaway = True
    window.close()


def _write_adding(app: QApplication, window: MainWindow, path: Path) -> None:
    """The wheels are given up, and found again."""
    session, live = window.session, window.live
    titles = [wire.title for wire in session.captures[0].wires]
    session.choose_wire((0, titles.index("wheels")))
    live.listening.rest()
    _wait(app, lambda: all("cave.wheels" not in used for used in live.listening.threads[0].used))
    live.add_wire()
    dialog = live.dialog
    if dialog is not None:
        dialog.line.setCurrentIndex(0)
        dialog.find_out.click()
        _wait(app, lambda: "1-Wire" in dialog.answer.text())
        _settle(app)
        write_picture(dialog, path, scale=1)
        dialog.reject()


def _all_read(session: Session, least: int) -> bool:
    """How many wires have given a reading."""
    wires = session.captures[0].wires if session.captures else ()
    return sum(any(track.given.any() for track in wire.tracks) for wire in wires) >= least


def _wait(app: QApplication, condition: Callable[[], bool]) -> bool:
    """Lets things happen until something is so; whether it came to that."""
    until = time.monotonic() + PATIENCE_S
    while not condition() and time.monotonic() < until:
        app.processEvents()
        time.sleep(0.005)
    return condition()


def _write_by_hand(app: QApplication, path: Path) -> None:
    pane = ByHandPane()
    dress(pane)
    pane.text.setPlainText(KERNEL)
    pane.show()
    _settle(app)
    write_picture(pane, path, scale=1)
    pane.close()


def _settle(app: QApplication) -> None:
    for _ in range(10):
        app.processEvents()
    while turns().busy:
        app.processEvents()
