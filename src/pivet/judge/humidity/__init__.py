"""Judging humidity exchanges."""

from pivet.judge.humidity.judged import JudgedFrames, judge

__all__ = ["JudgedFrames", "judge"]
