"""What a sensor's maker promises of its accuracy, from the sheets."""

from pivet.sheets.inside import inside
from pivet.sheets.model import Sheet
from pivet.sheets.onewire import KINDS, NARROW_C


def stated_accuracy(sheet: Sheet, quantity: str, value: float, rom: str = "") -> float | None:
    """Promised accuracy at a value, plus or minus, in the kept unit; None when there is none.

    A level is as accurate as the distance that it was made from.

    Args:
        sheet: the sheet of the sensor's type.
        quantity: what it measures.
        value: the value that it measures, in the kept unit.
        rom: code of a 1-Wire device in kernel form.
    """
    if sheet.echo is not None:
        return sheet.echo.accuracy_m if quantity in ("distance", "level") else None
    if rom:
        kind = KINDS.get(int(rom[:2], 16))
        if kind is None or not kind.thermometer or not inside(value, *kind.range_c):
            return None
        return kind.accuracy_c if inside(value, *NARROW_C) else kind.wide_c
    rule = next((known for known in sheet.values if known.quantity == quantity), None)
    if rule is None or not inside(value, *rule.promised):
        return None
    return rule.accuracy
