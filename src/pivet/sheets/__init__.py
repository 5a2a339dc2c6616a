"""Timing sheets: what each sensor's pulses may last, and what its bytes mean."""
