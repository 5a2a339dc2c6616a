"""The families of sensors: the keys by which sheets and bench files name them."""

HUMIDITY_FRAME, ONE_WIRE, ECHO_PULSE = "humidity-frame", "one-wire", "echo-pulse"

FAMILY_KEYS = (HUMIDITY_FRAME, ONE_WIRE, ECHO_PULSE)
"""In the order in which a line is looked at."""

FORMER_KEYS = {"humidity": HUMIDITY_FRAME, "onewire": ONE_WIRE, "echo": ECHO_PULSE}
"""Up to version 4 of the bench file: two of them could be taken for a quantity."""


def family_key(written: str) -> str:
    """The key that a sheet or a bench file means, which may be older; else what is written.

    Args:
        written: as a person writes it.
    """
    return FORMER_KEYS.get(written, written)


def known_as(key: str) -> tuple[str, ...]:
    """A key, and what it was before.

    Args:
        key: as it stands in the file.
    """
    return key, *(former for former, now in FORMER_KEYS.items() if now == key)
