"""The bench file in the window."""
