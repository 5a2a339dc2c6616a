"""What stays as it is: every small set of values that goes from room to room."""

from typing import dataclass_transform

import msgspec


@dataclass_transform(frozen_default=True, field_specifiers=(msgspec.field,))
class FrozenValue(msgspec.Struct, frozen=True):
    """Fields that never change; equal to another with equal fields."""


@dataclass_transform(frozen_default=True, eq_default=False, field_specifiers=(msgspec.field,))
class FrozenObject(msgspec.Struct, frozen=True, eq=False):
    """Fields that never change; equal to nothing but itself, since arrays are not compared."""
