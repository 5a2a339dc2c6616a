"""Feeds in the window: sending while a bench is open, their cards, and adding one."""
