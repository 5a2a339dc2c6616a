"""The Trend view: readings over time."""
