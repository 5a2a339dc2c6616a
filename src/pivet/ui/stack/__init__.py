"""The stack: every bit in a cell, all on one time scale."""
