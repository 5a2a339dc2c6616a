"""Judging 1-Wire transactions."""

from pivet.judge.onewire.judged import Judged, judge

__all__ = ["Judged", "judge"]
