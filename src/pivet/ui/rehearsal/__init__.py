"""The Rehearsal view."""
