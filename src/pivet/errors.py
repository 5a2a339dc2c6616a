"""The exceptions of Pivet, in one tree.

``PivetError``
    ``InputError``    a file or a value from outside cannot be used
    ``OutputError``   something could not be written
``Cancelled``         the person stopped a job; nothing is wrong

A bad *signal* is never an exception: it is a verdict and a finding.  Wrong
calls inside the program stay ``ValueError`` and ``TypeError``.
"""


class PivetError(Exception):
    """The surroundings failed, not Pivet: shown to the person as one sentence.

    Args:
        what: what is wrong and where, without a full stop.
        todo: what to do about it, without a full stop; may be empty.
    """

    def __init__(self, what: str, todo: str = "") -> None:
        what, todo = clipped(what), clipped(todo)
        super().__init__(what, todo)
        self.what = what
        self.todo = todo

    def __str__(self) -> str:
        return f"{self.what}: {self.todo}." if self.todo else f"{self.what}."


def clipped(text: str, most: int = 400) -> str:
    """A text of bounded length: a stranger's file may have names as long as itself."""
    return text if len(text) <= most else f"{text[: most // 2]} … {text[-most // 2 :]}"


class InputError(PivetError, ValueError):
    """A file or value from outside cannot be used; the open work stays as it was."""


class OutputError(PivetError, OSError):
    """A file could not be written; what stood there before still stands."""

    __str__ = PivetError.__str__


class Cancelled(Exception):
    """The person stopped a job before its end."""
