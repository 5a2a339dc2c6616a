"""The probe link: how a host and a probe speak over a serial line; see docs/probe-link.md.

Nothing here does I/O: bytes go in and messages come out, or the other way round.
"""
