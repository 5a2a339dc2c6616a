"""Benchmarks: each figure is a ratio measured in one run."""
