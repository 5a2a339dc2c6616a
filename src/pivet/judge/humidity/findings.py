"""What was noticed about one exchange, in plain sentences with evidence and advice."""

from pivet.judge.humidity import tell_bytes, tell_course, tell_pulses
from pivet.judge.humidity.notices import TOLD

TELL = tell_bytes.TELL | tell_pulses.TELL | tell_course.TELL
TELLERS = {notice: TELL[notice] for notice in TOLD}
"""What tells each notice, in the order in which they are told."""
