"""Judging humidity exchanges."""

from pivet.judge.humidity.judged import Judged, judge

__all__ = ["Judged", "judge"]
