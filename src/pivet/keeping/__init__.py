"""What a bench file keeps while it is written and read, and the running log."""
