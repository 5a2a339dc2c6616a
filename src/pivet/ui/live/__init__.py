"""Listening in the window: the desk that runs it, its bar, its dialogs."""
