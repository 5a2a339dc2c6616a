"""Freed memory goes back to the system."""

import unittest
from unittest import mock

from pivet.listening.memory import keep_little


class Kept(unittest.TestCase):
    """What the C library is told."""

    def setUp(self) -> None:
        keep_little.cache_clear()
        self.addCleanup(keep_little.cache_clear)

    def test_once(self) -> None:
        """Large arrays go back; one that cannot is left alone."""
        for library in (mock.Mock(), mock.Mock(spec=[])):
            keep_little.cache_clear()
            with mock.patch("ctypes.CDLL", return_value=library):
                for _ in range(3):
                    keep_little()
            wanted = [mock.call.mallopt(-3, 131_072), mock.call.mallopt(-1, 1_048_576)]
            self.assertEqual(wanted if hasattr(library, "mallopt") else [], library.mock_calls)
