"""The Agreement view: a sensor against a reference."""
