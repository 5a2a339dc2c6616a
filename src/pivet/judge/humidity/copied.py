"""What copied bytes mean as a humidity frame, for each type that sends such."""

import numpy as np

from pivet.decode.humidity.layout import BYTES
from pivet.judge.copied import Copied, Meaning
from pivet.judge.humidity.report import sum_check
from pivet.judge.verdict import Verdict
from pivet.readings.forms import byte_names
from pivet.readings.values import quantity, shown
from pivet.sheets.families import HUMIDITY_FRAME
from pivet.sheets.load import recognisable
from pivet.sheets.model import Sheet


def meanings(copied: Copied) -> list[Meaning]:
    """What the bytes would say for each sheet; none where they are not five.

    Args:
        copied: the bytes, and what came with them.
    """
    if len(copied.data) != BYTES:
        return []
    return [_as_frame(copied.data, sheet) for sheet in recognisable(HUMIDITY_FRAME)]


def _as_frame(data: bytes, sheet: Sheet) -> Meaning:
    check = sum_check(data)
    packed = np.frombuffer(data, dtype=np.uint8).reshape(BYTES, 1)
    verdict, words = Verdict.SOUND, []
    for rule in sheet.values:
        row = quantity(rule, packed)
        words.append(f"{shown(float(row.values[0]), rule)} {rule.unit}")
        if not row.possible[0]:
            verdict = Verdict.UNSOUND
            words[-1] += " (impossible)"
        elif not row.in_range[0]:
            verdict = max(verdict, Verdict.NEAR)
            words[-1] += " (out of range)"
    says = ", ".join(words)
    if not any(data):
        verdict, says = Verdict.UNSOUND, "all bytes are zero: the sum holds, yet nothing was sent"
    elif not check.ok:
        verdict, says = Verdict.UNSOUND, f"the sum is wrong; it would say {says}"
    names = byte_names(sheet)
    rows = tuple((f"{byte:02x}", name) for byte, name in zip(data, names, strict=True))
    return Meaning(f"{sheet.name} ({sheet.id})", verdict, says, check, rows)
