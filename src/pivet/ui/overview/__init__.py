"""The Overview: every sensor at the start of a day."""
