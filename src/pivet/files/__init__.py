"""Open formats in and out: VCD (IEEE 1364), edge CSV, JSON Lines."""
