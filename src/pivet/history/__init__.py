"""Readings over time: what wires gave, from bench files and from captures alike."""
