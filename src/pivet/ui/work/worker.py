"""A thread for what is done beside the window."""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor


class Worker:
    """Does one thing after the other, in a thread that begins with the first.

    What it does is a plain object of Python: nothing of Qt dies in this thread, whoever lets go of
    it last.
    """

    def __init__(self) -> None:
        self._pool = ThreadPoolExecutor(1)

    def start(self, run: Callable[[], object]) -> None:
        """Has something done as soon as what came before it is over.

        Args:
            run: tells of its errors itself.
        """
        self._pool.submit(run)

    def wait(self) -> None:
        """Waits until all is done."""
        self._pool.submit(lambda: None).result()
