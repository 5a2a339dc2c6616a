"""The exchange on the wire, true to time."""
