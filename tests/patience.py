"""How long a test waits for what is to come from another thread, program or device."""

PATIENCE_S = 240.0
"""It goes on as soon as that has come; on a computer that does much else, that may be long."""
