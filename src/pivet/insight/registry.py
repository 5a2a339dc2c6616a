"""The families for insight, each loaded when it is first needed."""

from functools import cache

from pivet.captures.wire import Wire
from pivet.insight.family import FamilyInsight
from pivet.sheets.families import HUMIDITY_FRAME, ONE_WIRE


def insight_of(wire: Wire) -> FamilyInsight:
    """What insight knows of the family of a wire.

    Args:
        wire: a wire of any family.
    """
    return _load(wire.family.key)


@cache
def _load(key: str) -> FamilyInsight:
    if key == HUMIDITY_FRAME:
        from pivet.insight.humidity import HumidityInsight

        return HumidityInsight()
    if key == ONE_WIRE:
        from pivet.insight.onewire import OneWireInsight

        return OneWireInsight()
    from pivet.insight.echo import EchoInsight

    return EchoInsight()
