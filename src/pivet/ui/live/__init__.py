"""Listening in the window: what runs it, its bar, its dialogs."""
