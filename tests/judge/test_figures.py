"""The figures by which this room decides: none changes unless somebody means it.

docs/truth.md and the page of each family say what they are for.
"""

import importlib
import unittest

from tests.base import same_figures

FIGURES = {
    "belief": {
        "LIMIT": 0.0001,
        "CERTAIN": 0.0,
        "BROKEN": 0.00390625,
        "MOST_ODDS": 1000000.0,
        "ENOUGH": 1e-06,
        "BLOCK": 2048,
    },
    "margins": {
        "NEAR_SHARE": 0.2,
        "COARSE_SHARE": 0.5,
        "HOST_SLACK": 0.01,
    },
    "humidity.belief": {
        "LOW": 4,
        "ZERO": 5,
        "ONE": 6,
        "TAME": 0.12,
        "APART": 0.6,
        "FINE_NS": 3000,
        "ZERO_IN_LOWS": 0.52,
        "ONE_IN_LOWS": 1.4,
        "LEAST_SPREAD_NS": 300.0,
        "STEP_SHARE": 0.05,
        "OUTLIER": 0.002,
        "ASTRAY_NS": 50000,
        "UNTOLD": 6.400000000000001e-23,
        "FAR": 4.0,
        "SPLIT": 0.5,
    },
    "humidity.line": {
        "BOUNCES": 0.25,
        "LEAST_BOUNCES": 8,
        "INTERRUPTED_NS": 120000,
        "MERGED": 1.5,
        "SCATTER_NS": 9000,
        "SHORT_LOW_NS": 43000,
        "LONG_LOW_NS": 57000,
        "STEADY_BITS": 3,
        "STEADY_NS": 8000,
        "SHORTEST_LOW_NS": 30000,
        "FEW_MERGED": 3,
        "BITS_APART": 12,
    },
    "humidity.judged": {
        "BLOCK": 4096,
        "BLIND_NS": 20000,
        "HELD_NS": 100000000,
        "CLOCK_SHARE": 0.04,
        "RISE_US": 2.5,
        "MISFIT_US": 4.0,
        "USUAL_LOW_US": 50.0,
        "ANSWER_US": 82.0,
        "ANSWER_OFF": 0.1,
        "LATE_US": 10.0,
        "LEAST_BITS": 8,
    },
    "humidity.recognise": {
        "LOOKED_AT": 512,
        "LEAST_BITS": 8,
        "LEAST_SHARE": 0.02,
        "CUT_SHARE": 0.8,
        "CUT_ASK_NS": 500000,
        "BYTES_WEIGHT": 4.0,
        "ASK_WEIGHT": 1.0,
        "TIME_WEIGHT": 2.0,
        "ASK_FACTOR": 1000.0,
        "WORST_MISFIT": 0.15,
        "CLEARLY": 0.25,
        "ALIKE": 0.4,
        "MOST_IN_LOWS": 3.0,
        "SHAPELY": 0.85,
        "FEW_MORE": 16,
        "BIT_LOW_NS": (30000, 80000),
        "ASK_ONLY_NS": (10000, 40000000),
        "REST_NS": 100000000,
        "ASKS_SPREAD": 0.05,
        "ASKS_SPREAD_NS": 20000,
        "SHORT_RESET_NS": (300000, 480000),
        "SUMS_SHARE": 0.1,
        "ROUGHLY": 0.45,
        "TIMES_SHARE": 0.15,
        "MOST_TOLD": 3,
        "ASK_LEAST_NS": 700000,
        "RELEASE_MOST_NS": 60000,
        "ANSWER_NS": (65000, 120000),
        "ANSWER_MIDDLE_NS": 82000,
        "ANSWER_SLACK_NS": 20000,
        "LEAST_BEGUN": 2,
        "MOST_BEGUN": 0.7,
    },
    "humidity.tell_bytes": {
        "DOUBT": 0.6,
    },
    "onewire.belief": {
        "LEAST_SPREAD_NS": 500.0,
        "FAST_LEAST_SPREAD_NS": 100.0,
        "STEP_SHARE": 0.1,
        "OUTLIER": 0.001,
        "ASTRAY_NS": 30000.0,
        "ONE_NS": 6000.0,
        "ZERO_NS": 62000.0,
        "HELD_NS": 30000.0,
        "TAME_ONE_NS": 11000,
        "TAME_HOLD_NS": 19000,
        "TAME_ZERO_NS": 45000,
        "TAME_SLOT_NS": 50000,
        "TAME_STEP_NS": 1000,
        "FAST_SHARE": 0.125,
        "LEAST_PITCH": 0.65,
        "LEAST_SLOT_NS": 45000.0,
    },
    "onewire.line": {
        "SPLIT_NS": 42000,
        "BOUNCED": 0.2,
        "SCATTER_NS": 6000,
        "SCATTER_ONE_NS": 7000,
        "GROWN": 0.6,
        "SLOW_ONE_NS": 13000,
        "ALIKE_NS": 4000,
    },
    "onewire.judged": {
        "BLIND_NS": 10000,
        "COARSE_NS": 5000,
        "HELD_NS": 5000000,
    },
    "onewire.recognise": {
        "KNOWN_SHARE": 0.5,
        "REST_NS": 5000000,
        "ASK_NS": (300000, 750000),
        "ASKS_SPREAD": 0.05,
        "FEW": 4,
        "MORE_REST_NS": 25000000,
        "RESET_NS": (430000, 1000000),
        "PHASE_NS": 420000,
        "MOST_RESETS": 0.7,
    },
    "onewire.course": {
        "POWER_ON_RESERVED": 12,
        "USUAL_STEP_C": 10.0,
    },
    "echo.timeout": {
        "LEAST_NS": 15000000,
        "ALIKE_NS": 6000,
        "OFTEN": 3,
        "CLEAR": 0.97,
        "SPREAD": 10,
        "NEVER": -1,
    },
    "echo.line": {
        "SWAPPED_NS": 116000,
    },
    "echo.judged": {
        "ABOUT": 0.02,
        "UNASKED_NS": 1000000,
        "BLOCK": 65536,
        "FIXED_SHARE": 0.005,
    },
    "echo.recognise": {
        "WAIT_NS": (100000, 3000000),
        "ECHO_NS": (80000, 250000000),
        "TRIGGER_NS": (1000, 200000),
        "ANSWERED_SHARE": 0.5,
        "LEAST_ANSWERED": 2,
        "NEARLY": 0.9,
        "STEADY": 0.25,
        "STEADY_NS": 60000,
        "ALONE_NS": (100000, 45000000),
        "ALONE_APART_NS": 10000000,
        "ASKED_APART_NS": 10000000,
        "APART_NS": 1000000,
    },
}

BITS = {
    "humidity": """
        no-answer line-held-low cut-short extra-pulses sum-wrong all-zeros
        wrong-type impossible-value ask-too-short late-answer pulse-outside
        capture-ended capture-began too-coarse too-soon out-of-range scale-edge
        pulse-near clock-off slow-rise spike-removed too-doubtful reflections
        two-answer interrupted copy-habits other-sign scatter
    """,
    "onewire": """
        line-held-low no-presence reset-too-short all-ones all-zeros crc-wrong
        device-left power-on-value read-too-early parasite-disturbed
        impossible-value search-stopped pulse-outside capture-began capture-ended
        too-coarse several-answer unknown-command device-joined order-shifted
        search-cut maybe-power-on pulse-near too-many-slots not-converted
        ended-early no-alarm parasite-powered spike-removed too-doubtful slow-rise
        broken-off scatter reflections split-slots
    """,
    "echo": """
        retriggered no-echo nothing-in-range too-near too-far trigger-short
        pulse-outside capture-ended too-coarse too-soon jumped late-rise pulse-near
        trigger-unseen fixed-speed air-assumed spike-removed echo-broken echo-ragged
        several-echoes stray-pulses nobody-asked swapped stuck-high
    """,
}
"""Notices by their bits, the lowest first: they stand in bench files, so none ever moves."""

CAUSES = {
    "humidity": {
        "wrong-type": """
            impossible-value ask-too-short pulse-outside pulse-near
        """,
        "two-answer": """
            cut-short extra-pulses sum-wrong all-zeros impossible-value
            pulse-outside pulse-near too-doubtful
        """,
        "reflections": """
            cut-short extra-pulses sum-wrong all-zeros impossible-value
            pulse-outside pulse-near too-doubtful
        """,
        "slow-rise": """
            no-answer cut-short extra-pulses sum-wrong all-zeros
            impossible-value ask-too-short pulse-outside pulse-near too-doubtful
            interrupted
        """,
        "clock-off": """
            pulse-outside pulse-near
        """,
        "scatter": """
            cut-short extra-pulses sum-wrong all-zeros impossible-value
            pulse-outside pulse-near too-doubtful
        """,
        "ask-too-short": """
            no-answer
        """,
        "too-soon": """
            no-answer late-answer
        """,
        "interrupted": """
            cut-short pulse-outside too-soon
        """,
        "too-coarse": """
            cut-short extra-pulses sum-wrong all-zeros impossible-value
            pulse-outside pulse-near too-doubtful
        """,
        "copy-habits": """
            pulse-near
        """,
        "spike-removed": """
            cut-short extra-pulses sum-wrong pulse-outside pulse-near
        """,
    },
    "onewire": {
        "reset-too-short": """
            no-presence
        """,
        "slow-rise": """
            all-zeros crc-wrong impossible-value search-stopped pulse-outside
            pulse-near too-doubtful
        """,
        "several-answer": """
            all-zeros crc-wrong impossible-value search-stopped too-doubtful
        """,
        "reflections": """
            no-presence reset-too-short all-ones all-zeros crc-wrong device-left
            impossible-value search-stopped pulse-outside unknown-command
            search-cut pulse-near too-many-slots too-doubtful broken-off
            split-slots
        """,
        "split-slots": """
            no-presence reset-too-short all-ones all-zeros crc-wrong device-left
            impossible-value search-stopped pulse-outside unknown-command
            search-cut pulse-near too-many-slots too-doubtful broken-off
        """,
        "scatter": """
            no-presence reset-too-short all-ones all-zeros crc-wrong device-left
            impossible-value search-stopped pulse-outside unknown-command
            search-cut pulse-near too-many-slots too-doubtful broken-off
            split-slots
        """,
        "broken-off": """
            crc-wrong
        """,
        "too-coarse": """
            all-zeros crc-wrong impossible-value search-stopped pulse-outside
            pulse-near too-doubtful
        """,
    },
    "echo": {
        "swapped": """
            retriggered no-echo too-near trigger-short late-rise nobody-asked
        """,
        "stuck-high": """
            retriggered nothing-in-range capture-ended
        """,
        "trigger-short": """
            no-echo
        """,
        "echo-broken": """
            echo-ragged
        """,
    },
}
"""What each cause brings with it."""

SETS = {
    ("humidity", "REFUSING"): """
        all-zeros impossible-value too-doubtful
    """,
    ("onewire", "REFUSING"): """
        all-ones all-zeros crc-wrong power-on-value read-too-early impossible-value
        too-doubtful
    """,
    ("onewire", "UNSEEN"): """
        no-presence reset-too-short all-ones all-zeros crc-wrong device-left
        search-stopped pulse-outside unknown-command device-joined order-shifted
        search-cut pulse-near too-many-slots ended-early slow-rise broken-off
        scatter reflections split-slots
    """,
    ("echo", "REFUSING"): """
        nothing-in-range too-near too-far capture-ended echo-ragged several-echoes
        nobody-asked
    """,
}
"""Notices with which values are refused, and those that a coarse capture only seems to show."""


class Figures(unittest.TestCase):
    """Each module's own."""

    def test_figures(self) -> None:
        """As they were when they were last meant."""
        same_figures(self, "judge", FIGURES)

    def test_bits(self) -> None:
        """One bit a notice, from the lowest on."""
        for family, codes in BITS.items():
            notices = importlib.import_module(f"pivet.judge.{family}.notices").Notice
            wanted = {code: 1 << bit for bit, code in enumerate(codes.split())}
            self.assertEqual(wanted, {row.code: int(row) for row in notices})

    def test_causes(self) -> None:
        """Each names its own symptoms."""
        for family, causes in CAUSES.items():
            module = importlib.import_module(f"pivet.judge.{family}.notices")
            found = {
                cause.code: {row.code for row in module.Notice if int(bits) & row}
                for cause, bits in module.EXPLAINS.items()
            }
            self.assertEqual({key: set(codes.split()) for key, codes in causes.items()}, found)

    def test_sets(self) -> None:
        """What refuses, and what is hidden."""
        for (family, name), codes in SETS.items():
            module = importlib.import_module(f"pivet.judge.{family}.judged")
            bits = int(getattr(module, name))
            found = {row.code for row in module.Notice if bits & row}
            self.assertEqual(set(codes.split()), found, name)


if __name__ == "__main__":
    unittest.main()
