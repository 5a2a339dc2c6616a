"""What tells resets, presence and bits apart on a 1-Wire line.

The limits here only find transactions and bits; whether a pulse is right is the judge's
matter.  So they stand in the middle between what the standard allows on either side.
"""

US = 1_000
MS = 1_000_000

SPIKE_NS = 400
"""A shorter pulse is a spike: slots may begin with lows of 1 µs."""

RESET_FLOOR_NS = 300 * US
"""A low of this length is a reset: presence lasts at most 240 µs, a reset at least 480."""

FAST_RESET_FLOOR_NS = 36 * US
"""The same at overdrive speed: presence lasts at most 24 µs, a reset at least 48."""

PRESENCE_LATEST_NS = 200 * US
PRESENCE_LEAST_NS = 30 * US
"""A low so soon after a reset, and so long, is presence: slots come 480 µs after it."""

PRESENCE_MOST_NS, PRESENCE_SOON_NS = 400 * US, 80 * US
"""Copies and slow lines hold presence for 300 µs and more: as long as a reset, right after one."""

FAST_PRESENCE_LATEST_NS = 20 * US
FAST_PRESENCE_LEAST_NS = 4 * US

WRITE_SPLIT_NS = 30 * US
"""A device samples a written bit some 30 µs after the fall (15..60)."""

READ_SPLIT_NS = 15 * US
"""A host samples a read bit at the latest 15 µs after the fall."""

FAST_WRITE_SPLIT_NS = 4 * US
FAST_READ_SPLIT_NS = 2 * US

HOST_ZERO_NS = 55 * US
FAST_HOST_ZERO_NS = 5_500
"""A 0 of at least this length was written by the host, a shorter one held by a device; only
where the command does not say who speaks."""

HEAD_LOWS = 2048
"""This many lows before the first reset settle whether the line is at overdrive speed."""

MOST_SLOTS = 1 << 17
"""A transaction of more slots is cut there; the rest is passed over and counted."""

QUIET_NS = 1 * MS
"""A line quiet for so long at the capture's end had come to rest."""

BITS_IN_BYTE = 8
