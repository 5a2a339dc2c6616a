"""Made-up sensors on made-up wires: for demo, tests and benchmarks."""
