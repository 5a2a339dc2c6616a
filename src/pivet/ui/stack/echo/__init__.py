"""The stack of echo measurements: successive shots, aligned at the echo's rise."""
