"""An opened capture: its lines, the wires found on them, decoded and judged."""
