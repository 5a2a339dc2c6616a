"""What bytes mean: number forms, quantities and units."""
