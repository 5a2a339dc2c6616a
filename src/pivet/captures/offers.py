"""What a line may be that nobody recognised: offered, and decoded when the person says so."""

from pivet.frozen import FrozenValue
from pivet.sheets.model import Sheet


class Offer(FrozenValue):
    """What lines may be.

    Attributes:
        names: the names of the lines, as ``--wire`` takes them.
        says: why, in plain words.
        sheet: as which they can be decoded; None where only the person can say.
        inverted: some of them must be turned over for that.
    """

    names: str
    says: str
    sheet: Sheet | None = None
    inverted: bool = False
