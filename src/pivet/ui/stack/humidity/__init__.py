"""The stack of a humidity exchange: 40 bits in five rows, and the running sum."""
