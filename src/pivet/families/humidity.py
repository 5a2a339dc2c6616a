"""Humidity sensors with a 40-bit frame, for the bench."""

from collections.abc import Mapping, Sequence

import numpy as np
import numpy.typing as npt

from pivet.decode.humidity import DecodeMark, HumidityDecoder, HumidityExchanges
from pivet.decode.humidity.columns import join
from pivet.decode.interface import Decoder
from pivet.families.family import Family
from pivet.judge.copied import Copied, Meaning
from pivet.judge.humidity import JudgedFrames, judge
from pivet.judge.humidity.before import Before, after
from pivet.judge.humidity.classes import KEYS
from pivet.judge.humidity.copied import meanings
from pivet.judge.humidity.notices import HEADLINES, Notice
from pivet.judge.humidity.recognise import looks_answered, looks_asked, nearest, rank_sheets
from pivet.judge.humidity.report import report
from pivet.judge.judgement import Likeness
from pivet.judge.margins import LeastMargins, least_margins
from pivet.judge.report import Report
from pivet.person.choices import WireChoices
from pivet.sheets.families import HUMIDITY_FRAME
from pivet.sheets.model import Sheet
from pivet.signal.trace import Level
from pivet.signal.uncertainty import Uncertainty


class Humidity(Family[HumidityExchanges, JudgedFrames, Before]):
    """Humidity sensors with a 40-bit frame."""

    key = HUMIDITY_FRAME
    title = "frames of a humidity sensor"
    notices = Notice
    words = HEADLINES
    copied = "5 bytes of a humidity frame"

    def decoder(self, initial: tuple[Level, ...], start_ns: int) -> Decoder[HumidityExchanges]:
        """For one line."""
        return HumidityDecoder(initial[0], start_ns)

    def join(self, batches: Sequence[HumidityExchanges]) -> HumidityExchanges:
        """Batches of one line as one.

        Args:
            batches: columns, in order of time.
        """
        return join(batches)

    def likeness(self, exchanges: HumidityExchanges, lines: int, step_ns: int = 1) -> Likeness:
        """By the shape of frames, else by lone asks."""
        if looks_answered(exchanges, step_ns):
            return Likeness.ANSWERED
        return Likeness.ASKED if looks_asked(exchanges) else Likeness.POSSIBLE

    def nearest(self, exchanges: HumidityExchanges) -> tuple[str, Sheet | None] | None:
        """Which sheet is nearest to frames of nobody that is known.

        Args:
            exchanges: decoded, columns of n exchanges.
        """
        says = nearest(exchanges)
        return None if says is None else (says, None)

    def rows(self, exchanges: HumidityExchanges, first: int, last: int) -> HumidityExchanges:
        """Exchanges ``first`` up to ``last``."""
        return exchanges.rows(first, last)

    def judge(
        self,
        exchanges: HumidityExchanges,
        line_count: int,
        resolution_ns: Uncertainty,
        choices: WireChoices,
        before: Before | None = None,
    ) -> JudgedFrames:
        """Recognises the type, or tells whether another than the chosen one fits better."""
        ranking = before.ranking if before is not None else None
        ranking = ranking or rank_sheets(exchanges)
        sheet, better = ranking.best, None
        if choices.sheet is not None:
            sheet = choices.sheet
            better = ranking.better_than(sheet) if len(exchanges) else None
        previous_ns = None if before is None else before.start_ns
        return judge(exchanges, sheet, resolution_ns, better, previous_ns)

    def after(
        self, exchanges: HumidityExchanges, judged: JudgedFrames, count: int, before: Before | None
    ) -> Before:
        """The last start, and which sheets fit."""
        return after(exchanges, count, before)

    def states(
        self, exchanges: HumidityExchanges, judged: JudgedFrames
    ) -> Sequence[npt.NDArray[np.generic]]:
        """What stands open may go on, and another type may turn out to fit better."""
        sheets = [judged.sheet.id, judged.better.id if judged.better else ""]
        same = np.full(len(judged), hash(tuple(sheets)), dtype=np.int64)
        return (
            exchanges.start_ns,
            exchanges.end_ns,
            exchanges.widths_ns,
            exchanges.marks,
            judged.notices,
            judged.verdict,
            judged.since_last_ns,
            same,
        )

    def report(
        self,
        exchanges: HumidityExchanges,
        judged: JudgedFrames,
        index: int,
        wire: str,
        names: Mapping[str, str],
    ) -> Report:
        """Everything about one exchange."""
        return report(exchanges, judged, index, wire)

    def margins(self, judged: JudgedFrames) -> LeastMargins:
        """The least margin of each exchange.

        Args:
            judged: what the judge says of a wire.
        """
        windows = [judged.sheet.windows[key] for key in KEYS]
        return least_margins(windows, judged.classes.least_ns, judged.classes.most_ns)

    def data(self, exchanges: HumidityExchanges, index: int) -> bytes:
        """The whole bytes of a frame."""
        return exchanges.packed[: int(exchanges.bit_count[index]) // 8, index].tobytes()

    def meanings(self, copied: Copied) -> Sequence[Meaning]:
        """As a frame of each type that sends such.

        Args:
            copied: the bytes, and what came with them.
        """
        return meanings(copied)

    def is_part(self, exchanges: HumidityExchanges, other: HumidityExchanges) -> bool:
        """Whether the line is only the sensor's driver of the other line."""
        unseen = (exchanges.marks & DecodeMark.ASK_UNSEEN) != 0
        asked = (other.marks & DecodeMark.ASK_UNSEEN) == 0
        return (
            bool(unseen.all())
            and len(other) >= len(exchanges)
            and bool(asked.any())
            and bool(np.isin(exchanges.end_ns, other.end_ns).all())
        )
