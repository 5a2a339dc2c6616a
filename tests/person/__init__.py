"""What the person says."""
