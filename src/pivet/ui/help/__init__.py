"""Help texts, and the window that shows them."""
