"""The bench file: one SQLite file with wires, edges, exchanges, readings, notes.

See docs/bench-file.md.
"""
