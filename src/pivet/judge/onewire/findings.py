"""What was noticed about one transaction, in plain sentences with evidence and advice."""

from pivet.judge.onewire import tell_bus, tell_bytes
from pivet.judge.onewire.notices import TOLD

TELL = tell_bus.TELL | tell_bytes.TELL
TELLERS = {notice: TELL[notice] for notice in TOLD}
"""What tells each notice, in the order in which they are told."""
