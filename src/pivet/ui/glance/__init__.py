"""The Glance window: large figures that stay on top."""
