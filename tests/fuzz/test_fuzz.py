"""Each reader gets some of what strangers could send; `./run bench fuzz` takes minutes."""

from tests.base import PivetTest
from tests.fuzz.all import FUZZERS


class Fuzz(PivetTest):
    """Never another exception than a sentence, never longer than a moment."""

    def test_every_reader(self) -> None:
        """Fixed seeds, the same each time."""
        for make in FUZZERS:
            fuzzer = make(self.folder)
            with self.subTest(fuzzer.name):
                self.assertEqual(fuzzer.few, fuzzer.run(range(fuzzer.few)))
                self.assertGreater(fuzzer.taken, 0, "some cases get through")
                self.assertGreater(fuzzer.refused, 0, "some are refused")
