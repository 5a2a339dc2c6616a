"""Judging echo measurements."""

from pivet.judge.echo.judged import Judged, judge

__all__ = ["Judged", "judge"]
