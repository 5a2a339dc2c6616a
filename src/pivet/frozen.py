"""What stays as it is: every small set of values that goes from room to room."""

from typing import TypeVar, dataclass_transform

import msgspec
from msgspec.structs import asdict

S = TypeVar("S", bound=msgspec.Struct)


@dataclass_transform(frozen_default=True, field_specifiers=(msgspec.field,))
class FrozenValue(msgspec.Struct, frozen=True):
    """Fields that never change; equal to another with equal fields."""


@dataclass_transform(frozen_default=True, eq_default=False, field_specifiers=(msgspec.field,))
class FrozenObject(msgspec.Struct, frozen=True, eq=False, weakref=True):
    """Fields that never change; equal to nothing but itself, since arrays are not compared."""


def replace(one: S, /, **changes: object) -> S:
    """The same with other fields; made anew, so it is checked and worked out like any other.

    Args:
        one: stays as it is.
        changes: fields and what they are now.

    Raises:
        TypeError: there is no such field.
    """
    return type(one)(**(asdict(one) | changes))
