"""The Exchange view: wires, ribbon, stack, strip and answer side by side."""
