"""The simulated cave in the window: its process, and the pane that moves its world."""
