"""What the views of readings over time share."""
