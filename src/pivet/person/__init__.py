"""What the person says: choices, names, annotations, wishes."""
