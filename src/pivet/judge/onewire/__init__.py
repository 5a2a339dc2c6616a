"""Judging 1-Wire transactions."""

from pivet.judge.onewire.judged import JudgedTransactions, judge

__all__ = ["JudgedTransactions", "judge"]
