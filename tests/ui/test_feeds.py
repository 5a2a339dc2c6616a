"""Feeds in the real window: added in three steps, seen on cards, paused, removed."""

import json
import os
import threading
from collections.abc import Callable
from pathlib import Path
from typing import Any
from unittest import mock

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QMessageBox, QPushButton

from pivet.errors import InputError
from pivet.feeds.feeds import Feeds
from pivet.feeds.setup import FeedSetup, read_setup
from pivet.feeds.state import State
from pivet.files.benchfile.feeds import FeedRow, feed_rows, put_feed
from pivet.files.benchfile.store import BenchFile
from pivet.standin.cloud import Cloud, CloudRules
from pivet.ui.feeds.add import AddFeed
from pivet.ui.feeds.cards import FeedCard, FeedsDialog
from tests.base import older_bench
from tests.feeds.broker import Broker, Collector
from tests.feeds.test_mqtt import readings
from tests.patience import PATIENCE_S
from tests.ui.base import WindowTest


class FeedsInWindow(WindowTest):
    """A bench is open, and so are its feeds."""

    def bench(self) -> Path:
        """A minute and a half of the cave."""
        path = older_bench(5, self.folder)
        BenchFile.open(path).close()
        return path

    def dialog(self) -> FeedsDialog:
        """Opened by its keys."""
        self.press("Ctrl+Shift+D")
        dialog = self.window.live.feeds_dialog
        assert dialog is not None
        self.wait_for(dialog.isVisible, "it is shown")
        return dialog

    def form(self, dialog: FeedsDialog) -> AddFeed:
        QTest.mouseClick(dialog.adds, Qt.MouseButton.LeftButton)
        assert dialog.form is not None
        return dialog.form

    def card(self, dialog: FeedsDialog, name: str) -> FeedCard:
        self.wait_for(lambda: name in dialog.cards, "its card")
        return dialog.cards[name]

    def click(self, card: FeedCard, text: str) -> None:
        (button,) = (one for one in card.findChildren(QPushButton) if one.text() == text)
        QTest.mouseClick(button, Qt.MouseButton.LeftButton)
        self.finish_jobs()

    def close_bench(self) -> None:
        self.window.activateWindow()
        self.settle()
        self.press("Ctrl+W")
        self.assertIsNone(self.window.live.keeper.bench)

    def says(self, card: FeedCard) -> str:
        return f"{card._says.text()} | {card._more.text()} | {card._trouble.text()}"

    def told(self, card: FeedCard, words: str) -> None:
        self.wait_for(lambda: words in self.says(card), f"{words!r}, not {self.says(card)!r}")

    def test_three_steps(self) -> None:
        """To a broker: everything that the bench holds arrives, and the card says so."""
        broker = Broker(self.folder)
        self.addCleanup(broker.kill)
        collector = Collector(broker)
        self.addCleanup(collector.close)
        path = self.bench()
        self.open(path)
        dialog = self.dialog()
        self.wait_for(lambda: "none is lost" in dialog.empty.text(), "nothing there yet")
        form = self.form(dialog)
        QTest.keyClick(form.go_on, Qt.Key.Key_Return)
        self.assertIn("no address of a feed", form.said.text())
        QTest.keyClicks(form.where.url, f"mqtt://127.0.0.1:{broker.port}")
        QTest.keyClick(form.where.url, Qt.Key.Key_Return)
        self.assertEqual("2 of 3: What is sent", form.title.text())
        for box in form.what.wires:
            QTest.keyClick(box, Qt.Key.Key_Space)
        QTest.keyClick(form.go_on, Qt.Key.Key_Return)
        self.assertIn("no wire is chosen", form.said.text())
        QTest.keyClick(form.what.wires[0], Qt.Key.Key_Space)
        QTest.keyClick(form.what.all_held, Qt.Key.Key_Space)
        QTest.keyClick(form.go_on, Qt.Key.Key_Return)
        self.assertEqual("broker", form.last.name.text())
        self.assertIn("readings of 1 wire, as they come", form.last.summary.text())
        QTest.mouseClick(form.last.test, Qt.MouseButton.LeftButton)
        self.wait_for(form.last.test.isEnabled, "the test is over")
        self.assertIn("It was acknowledged by 127.0.0.1", form.last.came.text())
        QTest.keyClick(form.go_on, Qt.Key.Key_Return)
        card = self.card(dialog, "broker")
        self.told(card, "all sent |")
        self.wait_for(lambda: len(readings(collector)) == 18, "readings come")
        self.assertEqual({"shelf_A"}, {row["wire"] for row in readings(collector)})
        self.assertIn("9 rows sent, the last acknowledged", self.says(card))
        self.assertIn("Feed broker: all sent", card.accessibleName())
        broker.kill()
        self.click(card, "Send all again")
        self.told(card, "cannot send")
        self.wait_for(lambda: "What is heard waits." in self.window.notice.text, "it is told")
        broker.start()
        self.told(card, "all sent |")
        self.assertIn("sends again", self.window.notice.text)
        self.close_bench()
        self.wait_for(lambda: not dialog.cards, "the bench is closed")
        self.assertIn("belong to a bench", dialog.empty.text())
        self.assertFalse(dialog.adds.isEnabled())

    def test_a_service_at_its_pace(self) -> None:
        """With a key in a header; pause, resume, test and remove."""
        cloud = Cloud(CloudRules("sesame", 0.0))
        self.addCleanup(cloud.close)
        self.open(self.bench())
        dialog = self.dialog()
        form = self.form(dialog)
        where = form.where
        where.kind.setCurrentIndex(1)
        QTest.keyClicks(where.url, cloud.url)
        where.secret_from.setCurrentIndex(2)
        QTest.keyClicks(where.variable, "PIVET_DASH")
        where.key_at.setCurrentIndex(1)
        QTest.keyClicks(where.key_name, "X-Key")
        QTest.keyClick(form.go_on, Qt.Key.Key_Return)
        form.what.every.setValue(30.0)
        QTest.keyClicks(form.what.template, '{"t": "{warmth}"}')
        QTest.keyClick(form.go_on, Qt.Key.Key_Return)
        self.assertIn("{warmth} that nothing fills", form.said.text())
        form.what.template.setPlainText('{"t": "{temperature}"}')
        QTest.keyClick(form.go_on, Qt.Key.Key_Return)
        QTest.mouseClick(form.last.test, Qt.MouseButton.LeftButton)
        self.wait_for(form.last.test.isEnabled, "the test is over")
        self.assertIn("PIVET_DASH is not set", form.last.came.text())
        with mock.patch.dict(os.environ, {"PIVET_DASH": "sesame"}):
            QTest.mouseClick(form.last.test, Qt.MouseButton.LeftButton)
            self.wait_for(form.last.test.isEnabled, "the test is over")
            self.assertIn("taken by 127.0.0.1", form.last.came.text())
            QTest.keyClick(form.back, Qt.Key.Key_Space)
            QTest.keyClick(form.what.all_held, Qt.Key.Key_Space)
            QTest.keyClick(form.go_on, Qt.Key.Key_Return)
            form.last.name.setText("two words")
            QTest.keyClick(form.go_on, Qt.Key.Key_Return)
            self.assertIn("no name of a feed", form.said.text())
            form.last.name.setText("dash")
            QTest.keyClick(form.go_on, Qt.Key.Key_Return)
            card = self.card(dialog, "dash")
            self.told(card, "keeping the pace, again in")
            self.assertEqual(2, len(cloud.updates))
            self.click(card, "Pause")
            self.told(card, "paused; ")
            self.click(card, "Let it send")
            self.told(card, "keeping the pace")
            with mock.patch.object(QMessageBox, "question") as asked:
                asked.return_value = QMessageBox.StandardButton.No
                self.click(card, "Remove")
                self.assertIn("They will not be sent", asked.call_args.args[2])
                self.assertIn("dash", dialog.cards)
                asked.return_value = QMessageBox.StandardButton.Yes
                self.click(card, "Remove")
        self.wait_for(lambda: not dialog.cards, "it is gone")

    def setups(self, kind: int, fill: Callable[[AddFeed], None]) -> FeedSetup:
        """What is added after the fields were filled."""
        dialog = self.dialog()
        form = self.form(dialog)
        form.where.kind.setCurrentIndex(kind)
        fill(form)
        for _ in range(3):
            QTest.keyClick(form.go_on, Qt.Key.Key_Return)
            self.assertEqual("", form.said.text())
        name = form.last.name.text()
        self.card(dialog, name)
        bench = self.window.live.keeper.bench
        assert bench is not None
        (row,) = (row for row in feed_rows(bench) if row.name == name)
        setup = read_setup(row.setup)
        assert setup is not None
        return setup

    def test_every_field_of_a_broker(self) -> None:
        """What is typed is what the bench keeps."""
        self.open(self.bench())
        self.press("U")

        def broker(form: AddFeed) -> None:
            form.where.url.setText("mqtts://127.0.0.1:1")
            form.where.user.setText("cellar")
            form.where.ca.setText("/ca.crt")
            form.where.cert.setText("/own.crt")
            form.where.cert_key.setText("/own.key")
            form.what.topic.setText("cave/{wire}/{quantity}")
            form.what.every.setValue(2.5)
            form.what.expiry.setValue(1_000_000)
            form.what.batch.setValue(7)
            for box in (form.what.plain, form.what.newest, form.what.derived):
                box.setChecked(True)
            form.what.retain.setChecked(False)
            form.what.wires[1].setChecked(False)

        made = self.setups(0, broker)
        wanted = FeedSetup(
            url="mqtts://127.0.0.1:1",
            id=made.id,
            wires=made.wires,
            units=("°F",),
            derived=True,
            every_s=2.5,
            newest=True,
            user="cellar",
            ca="/ca.crt",
            cert="/own.crt",
            cert_key="/own.key",
            topic="cave/{wire}/{quantity}",
            plain=True,
            retain=False,
            expiry_s=1_000_000,
        )
        self.assertEqual(wanted, made)
        self.assertEqual(6, len(made.wires))
        self.assertNotIn("wash_room", made.wires)

    def test_every_field_of_others(self) -> None:
        """What a kind has not, is not kept."""
        self.open(self.bench())
        self.press("U")

        def service(form: AddFeed) -> None:
            form.where.url.setText("http://127.0.0.1:1/a")
            form.where.secret_from.setCurrentIndex(2)
            form.where.variable.setText("PIVET_A")
            form.where.key_at.setCurrentIndex(3)
            form.what.template.setPlainText('{"k": "{key}"}')
            form.what.batch.setValue(10_000)
            form.what.as_shown.setChecked(False)

        made = self.setups(1, service)
        wanted = FeedSetup(
            url="http://127.0.0.1:1/a",
            id=made.id,
            batch=10_000,
            secret="env:PIVET_A",
            key_at="body",
            template='{"k": "{key}"}',
        )
        self.assertEqual(wanted, made)
        made = self.setups(2, lambda _: None)
        self.assertEqual("openmetrics://127.0.0.1:9464", made.url)
        self.assertEqual(("°F",), made.units)

    def test_another_kind_of_address(self) -> None:
        """One sentence."""
        self.open(self.bench())
        form = self.form(self.dialog())
        form.where.url.setText("http://x")
        QTest.keyClick(form.go_on, Qt.Key.Key_Return)
        self.assertIn("of another kind: begin it with mqtt://", form.said.text())

    def test_a_bench_that_cannot_be_read(self) -> None:
        """It is said where the cards stand, and no half a form stays."""
        self.open(self.bench())
        dialog = self.dialog()
        self.finish_jobs()
        gone = InputError("the bench cannot be read", "open it again")
        with mock.patch.object(Feeds, "wires", side_effect=gone):
            QTest.mouseClick(dialog.adds, Qt.MouseButton.LeftButton)
        self.assertEqual("the bench cannot be read: open it again.", dialog.empty.text())
        self.assertEqual((None, []), (dialog.form, self.window.findChildren(AddFeed)))
        dialog.close()

    def at_last_step(self, dialog: FeedsDialog) -> AddFeed:
        """A form that lacks nothing, with a password for the keyring."""
        form = self.form(dialog)
        form.where.url.setText("mqtt://127.0.0.1:1")
        form.where.user.setText("cellar")
        form.where.secret_from.setCurrentIndex(1)
        form.where.secret.setText("sesame")
        for _ in range(2):
            QTest.keyClick(form.go_on, Qt.Key.Key_Return)
        self.assertEqual("broker", form.last.name.text())
        return form

    def test_who_leaves_waits_for_nobody(self) -> None:
        """A test that hangs goes on without its form; its password is forgotten when it is over.
        What is being added is added all the same, keeps its password, and sends.
        """
        self.open(self.bench())
        dialog = self.dialog()
        for slow, kept in (("test_setup", []), ("add", ["broker"])):
            free, did = threading.Event(), list[str]()
            real = getattr(Feeds, slow)

            def hangs(*args: Any, free: threading.Event = free, real: Any = real) -> object:
                free.wait(PATIENCE_S)
                return real(*args)

            with (
                self.subTest(slow),
                mock.patch.object(Feeds, slow, hangs),
                mock.patch("pivet.ui.feeds.add.keep_secret", lambda *_, did=did: did.append("put")),
                mock.patch("pivet.ui.feeds.add.forget_secret", lambda _, did=did: did.append("no")),
                mock.patch.object(Feeds, "start", lambda _, did=did: did.append("sends")),
            ):
                form = self.at_last_step(dialog)
                button = form.last.test if slow == "test_setup" else form.go_on
                QTest.mouseClick(button, Qt.MouseButton.LeftButton)
                self.wait_for(lambda did=did: did == ["put"], "it is under way")
                QTest.mouseClick(form.leave, Qt.MouseButton.LeftButton)
                self.assertIsNone(dialog.form)
                self.assertEqual(["put"], did)
                free.set()
                ends = ["put", "sends" if kept else "no"]
                self.wait_for(lambda did=did, ends=ends: did == ends, f"{ends}, not {did}")
                self.finish_jobs()
                bench = self.window.live.keeper.bench
                assert bench is not None
                self.assertEqual(kept, [row.name for row in feed_rows(bench)])

    def test_a_test_that_hangs(self) -> None:
        """What came of a test is told; jobs do not wait for it meanwhile, and what comes when its
        bench was closed is told nobody.
        """
        cloud = Cloud(CloudRules())
        self.addCleanup(cloud.close)
        self.open(self.bench())
        self.setups(1, lambda form: form.where.url.setText(cloud.url))
        dialog = self.dialog()
        (name,) = dialog.cards
        free, begun = threading.Event(), threading.Event()

        def hangs(_feeds: Feeds, name: str) -> str:
            begun.set()
            free.wait(PATIENCE_S)
            return f"{name} came through"

        says = self.window.notice
        with mock.patch.object(Feeds, "test", hangs):
            self.click(dialog.cards[name], "Test")
            self.wait_for(begun.is_set, "it is under way")
            self.assertEqual(f"Feed {name}: sending a test message …", says.text)
            did = list[int]()
            self.window.jobs.start("another", lambda _: 7, did.append)
            self.wait_for(lambda: did == [7], "a job that waits for nothing")
            free.set()
            self.wait_for(lambda: says.text == f"Feed {name}: {name} came through.", "it is told")
            free.clear()
            begun.clear()
            self.click(dialog.cards[name], "Test")
            self.wait_for(begun.is_set, "it is under way")
            self.close_bench()
            says.say("something else", False)
            free.set()
            self.wait_for(lambda: not self.window.live.sending._trying._running, "it is over")
            self.settle()
            self.assertEqual("something else", says.text)

    def test_its_bench_goes(self) -> None:
        """A form about the feeds of a bench goes with it."""
        self.open(self.bench())
        dialog = self.dialog()
        form = self.form(dialog)
        self.window.live.keeper.close()
        self.assertIsNone(dialog.form)
        self.assertFalse(form.isVisible())

    def test_of_somebody_else(self) -> None:
        """It sends nothing before it is let; it sends when its bench is opened after that."""
        cloud = Cloud(CloudRules())
        self.addCleanup(cloud.close)
        path = self.bench()
        bench = BenchFile.open(path)
        with bench.writing():
            setup = FeedSetup(url=cloud.url, id="cafe", batch=100)
            put_feed(bench, FeedRow("theirs", setup.text()))
        Feeds(bench).send_again("theirs")
        bench.close()
        self.open(path)
        card = self.card(self.dialog(), "theirs")
        self.told(card, "sends nothing before you let it")
        self.assertEqual([], cloud.updates)
        self.click(card, "Test")
        told = self.window.notice
        self.wait_for(lambda: "Feed theirs: taken by" in told.text, "what came of it")
        self.click(card, "Let it send")
        self.told(card, "all sent")
        rows = [row for one in cloud.updates[1:] for row in one.body["readings"]]
        self.assertGreater(len(rows), 20)
        json.dumps(rows)
        self.close_bench()
        bench = BenchFile.open(path)
        Feeds(bench).send_again("theirs")
        self.assertEqual("", feed_rows(bench)[0].trouble)
        bench.close()
        before = len(cloud.updates)
        self.open(path)
        self.wait_for(lambda: len(cloud.updates) > before, "it sends again")

    def test_no_bench(self) -> None:
        """Nothing to add to; its help is a click away."""
        dialog = self.dialog()
        self.assertFalse(dialog.adds.isEnabled())
        self.assertIn("belong to a bench", dialog.empty.text())
        (helps,) = (one for one in dialog.findChildren(QPushButton) if one.text() == "&Help")
        QTest.mouseClick(helps, Qt.MouseButton.LeftButton)
        self.settle()
        titles = [one.windowTitle() for one in self.app.topLevelWidgets() if one.isVisible()]
        self.assertTrue(any("Feeds" in title and title != "Feeds" for title in titles), titles)

    def test_every_state_has_a_sign(self) -> None:
        """And words."""
        from pivet.ui.feeds.cards import SIGNS

        self.assertEqual(set(State), set(SIGNS))
