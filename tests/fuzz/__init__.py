"""Fuzzing: each reader of what strangers send has a grammar of its own."""
