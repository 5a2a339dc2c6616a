"""What is drawn of many exchanges, as plain geometry: the window paints it, a report writes it."""
