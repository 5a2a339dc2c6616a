"""The stack of a 1-Wire transaction: reset and presence, bytes under their command, searches."""
