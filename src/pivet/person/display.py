"""How readings are shown to a person: in their units, under their corrections."""

from collections.abc import Mapping

import msgspec

from pivet.frozen import FrozenObject, FrozenValue
from pivet.judge.report import Value
from pivet.person.roles import NO_ROLES, Roles
from pivet.readings.correction import Correction
from pivet.readings.series import Sensor
from pivet.readings.units import AS_KEPT, QUANTITIES, UnitChoice


class DisplayedValue(FrozenValue):
    """A value for people.

    Attributes:
        quantity: what was measured.
        text, unit: the value.
        correction: what was corrected, in a few words; empty when nothing was.
    """

    quantity: str
    text: str
    unit: str
    correction: str = ""


class Display(FrozenObject):
    """What somebody chose for showing readings; every change gives a new object.

    Attributes:
        units: the units that values are shown in.
        corrections: by sensor.
        roles: names of devices, by which corrections of theirs are kept.
    """

    units: UnitChoice = AS_KEPT
    corrections: Mapping[Sensor, Correction] = msgspec.field(default_factory=dict)
    roles: Roles = NO_ROLES

    def who(self, rom: str) -> str:
        """Role of a device, or its code while it has none.

        Args:
            rom: the ROM code of the device, in kernel form.
        """
        role = self.roles.holding(rom)
        return rom if role is None else role.name

    def value(
        self, wire: str, quantity: str, value: float, decimals: int, rom: str = ""
    ) -> DisplayedValue:
        """A raw value in the kept unit, as it is shown.

        Args:
            wire: short name of the wire.
            quantity: what it is.
            value: in the kept unit.
            decimals: the decimals that it has.
            rom: code of a 1-Wire device in kernel form.
        """
        if quantity not in QUANTITIES:
            return DisplayedValue(quantity, f"{value:z.{decimals}f}", "")
        correction = self.corrections.get(Sensor(wire, self.who(rom), quantity))
        fixed = value if correction is None else correction.applied(value)
        return DisplayedValue(
            quantity,
            self.units.text(quantity, fixed, decimals),
            self.units.of(quantity).symbol,
            "" if correction is None else correction.text(quantity, self.units),
        )

    def reading(self, wire: str, row: Value) -> DisplayedValue:
        """A value of a report, as it is shown.

        Args:
            wire: its name.
            row: quantity, value and unit as they are kept.
        """
        decimals = len(row.text.partition(".")[2])
        if row.quantity not in QUANTITIES or row.unit != AS_KEPT.of(row.quantity).symbol:
            return DisplayedValue(row.quantity, row.text, row.unit)
        return self.value(wire, row.quantity, row.value, decimals, row.rom)


PLAIN = Display()
