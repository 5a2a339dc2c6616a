"""From edges to exchanges: one decoder a family behind one small interface."""
