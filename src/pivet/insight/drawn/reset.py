"""Where reset and presence of a 1-Wire transaction stand, on a scale of their own."""

from collections.abc import Iterator

from pivet.insight.drawn.chips import width_words
from pivet.insight.drawn.picture import Kind, Points
from pivet.insight.drawn.place import Rect
from pivet.judge.onewire.detail import Transaction
from pivet.judge.onewire.pulses import PRESENCE, RESET, WAIT
from pivet.judge.pulses import Pulse
from pivet.judge.report import Report
from pivet.judge.verdict import Verdict
from pivet.sheets.model import Sheet
from pivet.sheets.onewire import rom_name

SPAN_US, FAST_SPAN_US = 1250.0, 128.0
WAVE_SHARE = 0.6
LEAD_SHARE = 0.03
"""Share of the wave that is shown before the reset."""

NAMES = {RESET: "reset", WAIT: "wait", PRESENCE: "presence"}


class ResetLayout:
    """The wave at the left, and room for words at the right.

    Args:
        box: where it stands.
        report: the report of the transaction.
        fast: at overdrive speed.
    """

    def __init__(self, box: Rect, report: Report, fast: bool) -> None:
        width = box.width * WAVE_SHARE
        self.wave = Rect(box.left, box.top + 8, width, box.height - 38)
        left = self.wave.right + 16
        self.words = Rect(left, box.top + 4, box.right - left, 22)
        self.pulses = {pulse.column: pulse for pulse in report.pulses if pulse.column < 0}
        self._scale = width / (FAST_SPAN_US if fast else SPAN_US)
        self._zero = self.wave.left + LEAD_SHARE * width
        self._fast = fast

    def bands(self, sheet: Sheet) -> Iterator[tuple[Rect, Kind]]:
        """Where the reset may end, where presence may begin and end.

        Args:
            sheet: that has the windows.
        """
        if RESET not in self.pulses:
            return
        head, wave = "fast_" if self._fast else "", self.wave
        release = self.pulses[RESET].width_us
        begin = release + (self.pulses[WAIT].width_us if WAIT in self.pulses else 0.0)
        rows = [("reset", 0.0, Kind.ZERO), ("presence_wait", release, Kind.LOW)]
        if PRESENCE in self.pulses:
            rows.append(("presence", begin, Kind.ONE))
        for key, start, kind in rows:
            window = sheet.windows[head + key]
            left = self._zero + (start + window.min_us) * self._scale
            right = self._zero + (start + (window.max_us or window.typ_us)) * self._scale
            width = max(min(right, wave.right) - left, 1.5)
            yield Rect(left, wave.top - 3, width, wave.height + 6), kind

    def parts(self) -> Iterator[tuple[Pulse, Rect]]:
        """The pulses that there are, and where each stands."""
        x = self._zero
        for column in NAMES:
            pulse = self.pulses.get(column)
            if pulse is not None:
                end = min(x + pulse.width_us * self._scale, self.wave.right)
                yield pulse, Rect(x, self.wave.top - 4, max(end - x, 2), self.wave.height + 8)
                x = end

    def line(self) -> Points:
        """The line through them."""
        wave, x = self.wave, self._zero
        points = [(wave.left, wave.top), (x, wave.top)]
        for column in NAMES:
            pulse = self.pulses.get(column)
            if pulse is not None:
                end = min(x + pulse.width_us * self._scale, wave.right)
                y = wave.top if pulse.high else wave.bottom
                points += [(x, y), (end, y)]
                x = end
        return (*points, (x, wave.top), (wave.right, wave.top))

    def names(self) -> Iterator[tuple[Pulse | None, str, Verdict]]:
        """What stands under the wave: each part with its length, or that it is not there."""
        for column, name in NAMES.items():
            pulse = self.pulses.get(column)
            if pulse is not None:
                yield pulse, f"{name} {width_words(pulse)}", pulse.verdict
            elif column != WAIT:
                yield None, f"no {name}", Verdict.UNSOUND


def meant_words(detail: Transaction) -> list[str]:
    """Who is meant, what is asked and at which speed, a line each; the first stands out.

    Args:
        detail: the transaction.
    """
    who = detail.role or detail.rom or ""
    command = rom_name(detail.command) if detail.command is not None else "no command"
    second = detail.rom if detail.role and detail.rom else command if who else ""
    speed = "turns to overdrive speed" if detail.turns_fast else f"{detail.speed} speed"
    return [who or command, *([second] if second else []), speed]
