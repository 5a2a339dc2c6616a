"""What tells trigger, echo and spikes apart; whether a pulse is right is the judge's matter."""

US = 1_000
MS = 1_000_000

SPIKE_NS = 1 * US
"""A shorter pulse is a spike: the shortest trigger lasts 2 µs."""

TRIGGER_BELOW_NS = 60 * US
"""On a shared line a shorter high is a trigger (2..5 µs), a longer one an echo (115 µs on)."""

ECHO_LATEST_NS = 5 * MS
"""A capture that ends sooner after a trigger cannot show whether its echo came."""

GAP_NS = 25 * US
"""A low this short within an echo is none: sound that went on does not stop for 4 mm."""

STRAY_NS = 250 * US
"""A high up to this length beside an echo may be a disturbance; of a longer one nobody can tell."""

TORN_NS = 250 * US
"""A high nearer to an echo than this may be a piece of it."""

WAIT_LEAST_NS, REST_LEAST_NS = 145 * US, 199 * US
"""On a shared line no trigger stands so close before an echo, or after one: 150 and 200 µs are the
least that is met."""

SURE_NS = 1 * MS
"""A high that touches an echo is a piece of it when it is longer than any disturbance."""

CLEARLY = 2
"""One high of several is the echo when it is longer than the others by this factor, and they are
short."""

RAGGED_NS = 17 * US
"""How much may be doubtful at an echo's ends: 3 mm, the accuracy of the sensors."""

STUCK_NS = 300 * MS
"""No board keeps its echo up for so long: timeouts of up to 200 ms are met."""

OWN_NS = 65 * MS
"""A high that rises so long after a trigger is another shot's, whose trigger was not seen."""
