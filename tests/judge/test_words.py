"""Every kind of finding of every family has its words."""

from collections.abc import Callable
from types import ModuleType
from typing import Any

from pivet.judge.belief import chance
from pivet.judge.echo import notices as echo
from pivet.judge.echo import tell as echo_tell
from pivet.judge.humidity import findings as humidity_tell
from pivet.judge.humidity import notices as humidity
from pivet.judge.onewire import findings as onewire_tell
from pivet.judge.onewire import notices as onewire
from pivet.judge.verdict import Verdict
from pivet.judge.wording import age, count, limit_of, seconds, span, stretch_of_time, us
from pivet.ui.help.pages import page_text
from tests.base import PivetTest
from tests.figures import figures

FAMILIES: dict[ModuleType, ModuleType] = {
    humidity: humidity_tell,
    onewire: onewire_tell,
    echo: echo_tell,
}


class Words(PivetTest):
    """What has no words is noticed and never told."""

    def test_every_notice(self) -> None:
        """A weight, words, a section of help, and a headline if it can head an exchange."""
        help_text = page_text("findings")
        for family, tell in FAMILIES.items():
            for notice in family.Notice:
                with self.subTest(family=family.__name__, notice=notice.code):
                    self.assertIn(notice, tell.TELLERS)
                    self.assertIn(f"## {notice.code}", help_text)
                    heads = notice.weight is not Verdict.SOUND and notice.name != "PULSE_NEAR"
                    if heads:
                        self.assertIn(notice.code, family.HEADLINES)

    def test_weights(self) -> None:
        """What cannot be weighed is no notice; every verdict has its own."""
        for family in FAMILIES:
            self.assertEqual(set(family.Notice), set(family.WEIGHTS))
            self.assertEqual(set(Verdict), set(family.WEIGHTS.values()))


class Times(PivetTest):
    """Stretches of time in words."""

    def test_lengths(self) -> None:
        """A unit begins at its own first number; limits have no decimals that nobody gave."""
        says: dict[str, Callable[[Any], str]] = {
            "us": us,
            "limit_of": limit_of,
            "span": lambda high: span(500.0, high if high else None),
            "age": age,
            "seconds": seconds,
            "chance": chance,
            "count": lambda number: count(number, "bus", "buses") + count(number, " pulse"),
        }
        for name, rows in figures(__file__)["words"].items():
            with self.subTest(name):
                self.assertEqual([said for _, said in rows], [says[name](at) for at, _ in rows])

    def test_as_fine_as_it_takes(self) -> None:
        """Both ends are told apart in a capture of milliseconds; a night is told in seconds."""
        second = 1_000_000_000
        for begin, end, wanted in (
            (0, 20_000_000, "0:00:00.000 to 0:00:00.020"),
            (second, 11 * second - 1, "0:00:01.000 to 0:00:10.999"),
            (second, 11 * second, "0:00:01 to 0:00:11"),
            (0, 8 * 3600 * second, "0:00:00 to 8:00:00"),
        ):
            self.assertEqual(wanted, stretch_of_time(begin, end))
