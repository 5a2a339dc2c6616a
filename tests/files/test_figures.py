"""The figures by which this room decides."""

from tests.figures import constants_test

Constants = constants_test(__file__)
