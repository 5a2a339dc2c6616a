"""What the person says: choices, names, annotations, settings of wires."""
