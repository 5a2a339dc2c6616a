"""The figures by which this room decides, and what its causes and refusals take in."""

import importlib
import unittest

from tests.figures import constants_test, figures

Constants = constants_test(__file__)


class Figures(unittest.TestCase):
    """What stands in the notices."""

    def test_causes(self) -> None:
        """Each names its own symptoms."""
        for family, causes in figures(__file__)["causes"].items():
            module = importlib.import_module(f"pivet.judge.{family}.notices")
            found = {
                cause.code: {row.code for row in module.Notice if int(bits) & row}
                for cause, bits in module.EXPLAINS.items()
            }
            self.assertEqual({key: set(codes) for key, codes in causes.items()}, found)

    def test_sets(self) -> None:
        """What refuses, and what is hidden."""
        for name, codes in figures(__file__)["sets"].items():
            family, _, name = name.partition(".")
            module = importlib.import_module(f"pivet.judge.{family}.judged")
            bits = int(getattr(module, name))
            found = {row.code for row in module.Notice if bits & row}
            self.assertEqual(set(codes), found, name)
