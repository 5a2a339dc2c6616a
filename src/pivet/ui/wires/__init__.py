"""The wires at the left."""
