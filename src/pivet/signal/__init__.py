"""What is on a wire: traces, lines, edges, spikes, resolution."""
