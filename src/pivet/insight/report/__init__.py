"""A report of what was captured, to hand to somebody."""
