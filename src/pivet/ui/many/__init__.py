"""What the views of many exchanges have in common."""
