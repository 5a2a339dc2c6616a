"""Who may ask: of all wires of a source one at a time.

A probe that drives one line in step with the clock may stamp edges of another late, and what it
drives may be heard on it.  So an ask waits until the answer to the one before is over.
"""

import weakref


class Floor:
    """Given to one speaker at a time, in the order in which they want it."""

    def __init__(self) -> None:
        # Who is dropped in the middle of an answer holds it no longer.
        self._queue: list[weakref.ref[object]] = []

    def take(self, speaker: object) -> bool:
        """Asks for it, or once more; True when it is this speaker's.

        Args:
            speaker: who wants to ask.
        """
        self._queue = [waiting for waiting in self._queue if waiting() is not None]
        if not any(waiting() is speaker for waiting in self._queue):
            self._queue.append(weakref.ref(speaker))
        return self._queue[0]() is speaker

    def leave(self, speaker: object) -> None:
        """The speaker wants it no more.

        Args:
            speaker: who had it, or waited for it.
        """
        self._queue = [waiting for waiting in self._queue if waiting() not in (None, speaker)]
