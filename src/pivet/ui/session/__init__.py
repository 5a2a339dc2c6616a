"""What the window shows: selection, what is live, and edits that can be undone."""
