"""The whole capture as a ribbon of verdicts."""
