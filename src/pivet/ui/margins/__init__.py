"""The Margins view."""
