"""What is done beside the window's thread."""
