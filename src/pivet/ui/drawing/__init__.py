"""Colours, fonts, marks, small widgets: what is drawn the same everywhere."""
