"""Stand-ins that live: sensors on lines that answer whoever drives them, in a cave that changes."""
