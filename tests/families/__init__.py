"""The family seam."""
