"""The Printed view."""
