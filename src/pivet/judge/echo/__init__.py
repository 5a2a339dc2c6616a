"""Judging echo measurements."""

from pivet.judge.echo.judged import JudgedShots, judge

__all__ = ["JudgedShots", "judge"]
