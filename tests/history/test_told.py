"""The figures of a night, word by word, in each form and unit."""

from collections.abc import Iterator
from pathlib import Path

from pivet.history.figures import FiguresForm, WireFigures, figures_text, wire_figures
from pivet.history.open import open_readings
from pivet.person.roles import NO_ROLES
from pivet.readings.units import AS_KEPT, Dimension
from tests.base import CAPTURES, PivetTest
from tests.night import night_file
from tests.pages import Page

PAGE = Page(__file__)
SHORT = CAPTURES / "av_echo.vcd"


def lines() -> Iterator[str]:
    """The page."""
    for form in FiguresForm:
        for units in (AS_KEPT, AS_KEPT.next(Dimension.TEMPERATURE)):
            yield f"# {form}, {units.of('temperature').symbol}"
            text = figures_text(_of(night_file()), units, form)
            yield text
    yield "# two files"
    rows = [*_of(SHORT, "a.vcd"), *_of(SHORT, "b.vcd")]
    for form in FiguresForm:
        yield figures_text(rows, AS_KEPT, form)


def _of(path: Path, file: str = "") -> Iterator[WireFigures]:
    """The figures of each wire."""
    with open_readings(path, NO_ROLES) as found:
        series = found.series()
        for rows in found.wires().values():
            yield wire_figures(rows, series, found.clock, file)


class Told(PivetTest):
    """Against the page that was last looked through."""

    def test_word_by_word(self) -> None:
        self.in_zone("UTC")
        PAGE.same(self, lines())
