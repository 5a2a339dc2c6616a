"""Feeds: what is read leaves the house, and nothing of it is lost on the way; see docs/feeds.md."""
