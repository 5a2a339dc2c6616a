"""Listening: live wires, asking their sensors, and what is told of them."""
