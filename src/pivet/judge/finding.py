"""A finding: a noticed cause, in one plain sentence."""

from pivet.frozen import FrozenValue
from pivet.judge.verdict import Verdict


class Finding(FrozenValue):
    """One noticed cause.

    Attributes:
        code: stable name, see ui/help/findings.md.
        weight: the verdict that it alone calls for.
        says: one plain sentence.
        advice: what to do about it; may be empty.
        at_ns: where to look, ns.
        columns: the pulses that it is about, by their ``Pulse.column``.
    """

    code: str
    weight: Verdict
    says: str
    advice: str
    at_ns: int
    columns: tuple[int, ...] = ()
