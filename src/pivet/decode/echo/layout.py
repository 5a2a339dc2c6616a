"""What tells trigger, echo and spikes apart; whether a pulse is right is the judge's matter."""

US = 1_000
MS = 1_000_000

SPIKE_NS = 1 * US
"""A shorter pulse is a spike: the shortest trigger lasts 2 µs."""

TRIGGER_BELOW_NS = 60 * US
"""On a shared line a shorter high is a trigger (2..5 µs), a longer one an echo (115 µs on)."""

ECHO_LATEST_NS = 5 * MS
"""A capture that ends sooner after a trigger cannot show whether its echo came."""
