"""Asking sensors: what each family needs to be told, and in which order."""
