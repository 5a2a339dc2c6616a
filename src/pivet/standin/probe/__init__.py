"""The stand-in probe: speaks the probe link, with the cave's sensors on its lines."""
