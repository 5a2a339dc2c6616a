"""What the person chose for a wire, beside what is found by itself."""

from pivet.frozen import FrozenObject
from pivet.readings.sound import MEDIAN_OVER, Air, Vessel
from pivet.sheets.model import Sheet
from pivet.sheets.reach import AS_IN_SHEET, Reach


class WireChoices(FrozenObject):
    """Choices for one wire.

    Attributes:
        sheet: judge as this sensor; None recognises it.
        air: the air temperature for an echo sensor; None takes the usual.
        vessel: derives a level from an echo sensor's distance.
        reach: timeout and farthest distance of an echo sensor, where the person gave them.
        over: how many shots make a median.
    """

    sheet: Sheet | None = None
    air: Air | None = None
    vessel: Vessel | None = None
    reach: Reach = AS_IN_SHEET
    over: int = MEDIAN_OVER


NO_CHOICE = WireChoices()
