"""Captures and their wires."""
