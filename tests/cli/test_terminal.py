"""What goes to the terminal, however much and however late."""

import contextlib
import io
from unittest import mock

from pivet.cli.listen_print import JsonPrinter, Printer, QuietPrinter
from pivet.cli.source_lines import about_lines
from pivet.cli.terminal import AT_ONCE, say_lines
from pivet.listening import events as ev
from pivet.listening.calendar import Calendar
from pivet.signal.trace import Level
from pivet.sources.source import About, Gap, LineInfo
from tests.base import PivetTest
from tests.cli.running import pivet


def said(printer: Printer, *events: ev.Event) -> str:
    """What a printer prints of events."""
    out = io.StringIO()
    with contextlib.redirect_stdout(out):
        printer.take(events)
    return out.getvalue()


class Lines(PivetTest):
    """Many lines go in one go; none is lost, none doubled."""

    def test_every_number(self) -> None:
        """Also where they fill a go exactly; what could steer a terminal is written out."""
        for count in (0, 1, AT_ONCE - 1, AT_ONCE, AT_ONCE + 1, 3 * AT_ONCE):
            out = io.StringIO()
            with contextlib.redirect_stdout(out):
                say_lines(f"\x1b{number}" for number in range(count))
            wanted = "".join(f"\\x1b{number}\n" for number in range(count))
            self.assertEqual(wanted, out.getvalue())

    def test_a_long_capture(self) -> None:
        """Every exchange has its line with ``--all``."""
        path = self.folder / "x.vcd"
        pivet("standin", path, "--sensor", "dht22", "--count", "150", "-q")
        lines = pivet("decode", path, "--all").stdout.splitlines()
        numbers = [int(line.split()[1]) for line in lines if line.startswith("  ●")]
        self.assertEqual(list(range(150)), numbers)


class Events(PivetTest):
    """Listening, printed."""

    def setUp(self) -> None:
        super().setUp()
        self.calendar = Calendar(lambda: 1_760_000_000_000_000_000)

    def test_what_waits_at_the_end(self) -> None:
        """After a signal it is printed for a moment, then only counted."""
        printer = Printer(self.calendar)
        heard = mock.create_autospec(ev.Heard, instance=True)
        heard.__class__ = ev.Heard
        with mock.patch.object(Printer, "show") as show:
            printer.take([heard] * 3)
            printer.ending = lambda: True
            with mock.patch("time.monotonic", side_effect=[1.0, 1.4, 1.6, 9]):
                printer.take([heard] * 4)
            printer.take([ev.Note("the end")])
        self.assertEqual(3 + 2 + 1, show.call_count)
        error = io.StringIO()
        with contextlib.redirect_stderr(error):
            printer.close()
        self.assertEqual("pivet: 2 more exchanges were heard, and not printed.\n", error.getvalue())

    def test_fields_of_events(self) -> None:
        """Each thing in a field of its own, beside the sentence."""
        printer = JsonPrinter(self.calendar)
        silent = ev.Silent("vat", "28-1", "no answer", "The line rests high.", 12, "no-answer")
        self.assertIn(
            '"exchange": 11, "reason": "no-answer", "why": "no answer", '
            '"look": "The line rests high.", "says": "no answer The line rests high."',
            said(printer, silent),
        )
        self.assertIn(
            '"reason": null, "why": "x", "look": null', said(printer, ev.Silent("v", "", "x"))
        )
        gap = ev.Missed("vat", Gap(10**9, 3 * 10**9, mock.Mock(), 7, "the probe was full"))
        line = said(printer, gap)
        self.assertIn('"seconds": 2.0, "lost": 7, "why": "the probe was full"', line)
        self.assertRegex(line, r'"from": "20[^"]+", "to": "20')
        gone = said(printer, ev.Withdrawn("vat", 12))
        self.assertIn('"event": "withdrawn"', gone)
        self.assertIn('"wire": "vat", "exchange": 11', gone)
        self.assertEqual("", said(QuietPrinter(self.calendar), silent, gap))

    def test_lines_of_a_source(self) -> None:
        """What each can do, and how it stands, where that is known."""
        lines = (
            LineInfo("a", can_pull_low=True, level=Level.LOW),
            LineInfo("b", can_pull_low=True, can_drive_high=True, note="spare"),
            LineInfo("c", level=Level.HIGH),
        )
        rows = [line.split(None, 1)[1] for line in about_lines(About("probe", lines, 1000))[-3:]]
        wanted = ["pulls low, low now", "pulls low, drives high (spare)"]
        self.assertEqual([*wanted, "only listens, high now"], rows)
