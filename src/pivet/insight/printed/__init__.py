"""Printed values against the wire."""
