"""The figures by which this room decides: none changes unless somebody means it.

docs/truth.md and the page of each family say what they are for.
"""

import unittest

from tests.base import same_figures

FIGURES = {
    "humidity.layout": {
        "US": 1000,
        "MS": 1000000,
        "BITS": 40,
        "BYTES": 5,
        "RELEASE": 0,
        "ANSWER_LOW": 1,
        "ANSWER_HIGH": 2,
        "FIRST_LOW": 3,
        "FIRST_HIGH": 4,
        "END_LOW": 83,
        "PULSES": 84,
        "SPIKE_NS": 4000,
        "IDLE_NS": 1000000,
        "ASK_FLOOR_NS": 300000,
        "ASK_LEAST_NS": 10000,
        "LATE_NS": 100000000,
        "MOST_LOWS": 2048,
        "ANSWER_LOW_NS": (55000, 160000),
        "ANSWER_HIGH_NS": (40000, 160000),
        "ANSWER_OVER_BIT": 1.1,
    },
    "echo.layout": {
        "US": 1000,
        "MS": 1000000,
        "SPIKE_NS": 1000,
        "TRIGGER_BELOW_NS": 60000,
        "ECHO_LATEST_NS": 5000000,
        "GAP_NS": 25000,
        "STRAY_NS": 250000,
        "TORN_NS": 250000,
        "WAIT_LEAST_NS": 145000,
        "REST_LEAST_NS": 199000,
        "SURE_NS": 1000000,
        "CLEARLY": 2,
        "RAGGED_NS": 17000,
        "STUCK_NS": 300000000,
        "OWN_NS": 65000000,
    },
    "onewire.layout": {
        "US": 1000,
        "MS": 1000000,
        "SPIKE_NS": 400,
        "RESET_FLOOR_NS": 300000,
        "FAST_RESET_FLOOR_NS": 36000,
        "PRESENCE_LATEST_NS": 200000,
        "PRESENCE_LEAST_NS": 30000,
        "PRESENCE_MOST_NS": 400000,
        "PRESENCE_SOON_NS": 80000,
        "FAST_PRESENCE_LATEST_NS": 20000,
        "FAST_PRESENCE_LEAST_NS": 4000,
        "WRITE_SPLIT_NS": 30000,
        "READ_SPLIT_NS": 15000,
        "FAST_WRITE_SPLIT_NS": 4000,
        "FAST_READ_SPLIT_NS": 2000,
        "HOST_ZERO_NS": 55000,
        "FAST_HOST_ZERO_NS": 5500,
        "HEAD_LOWS": 2048,
        "MOST_SLOTS": 131072,
        "QUIET_NS": 1000000,
        "BITS_IN_BYTE": 8,
    },
}


class Figures(unittest.TestCase):
    """Each module's own."""

    def test_figures(self) -> None:
        """As they were when they were last meant."""
        same_figures(self, "decode", FIGURES)


if __name__ == "__main__":
    unittest.main()
