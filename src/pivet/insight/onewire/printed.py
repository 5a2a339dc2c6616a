"""What thermometers on a 1-Wire line gave, and what mistakes in a firmware make of their bytes."""

from collections.abc import Iterator, Sequence

from pivet.decode.onewire import OneWireExchanges
from pivet.insight.printed.facts import Fact, Mistake, Truth
from pivet.judge.onewire import JudgedTransactions
from pivet.judge.onewire.scratchpads import read_pads
from pivet.readings.thermometer import HALF_DEGREES_FAMILY, MOST_BITS, T_HIGH, T_LOW

DECIMALS = 4
SIGN = 0x8000
HALF = f"{HALF_DEGREES_FAMILY:02x}-"


def facts_of(exchanges: OneWireExchanges, judged: JudgedTransactions) -> list[Fact]:
    """What each read of a scratchpad gave.

    Args:
        exchanges: decoded, columns of n transactions.
        judged: what the judge says of them.
    """
    pads = read_pads(exchanges)
    place = {index: at for at, index in enumerate(pads.at.tolist())}
    rows: dict[int, tuple[str, float | None]] = {}
    for track in judged.tracks:
        columns = (track.at.tolist(), track.values.tolist(), track.given.tolist())
        for index, value, given in zip(*columns, strict=True):
            rows[index] = (track.rom, value if given else None)
    order = sorted(rows)
    beside = _beside(order, rows)
    found = []
    for index in order:
        device, value = rows[index]
        truths = {}
        if value is not None:
            at = place.get(index)
            mistakes: list[Mistake] = []
            if at is not None:
                bits = int(pads.temperatures.resolution[at])
                mistakes += _mistakes(pads.data[:, at].tolist(), device.startswith(HALF), bits)
            mistakes += [
                Mistake("index-swapped", other, f"{other:g} is what {code} gave")
                for code, other in beside[index]
                if other != value
            ]
            truths["temperature"] = Truth(value, DECIMALS, tuple(mistakes))
        found.append(Fact(index, float(exchanges.end_ns[index]) / 1e9, device, truths))
    return found


def _beside(
    order: list[int], rows: dict[int, tuple[str, float | None]]
) -> dict[int, list[tuple[str, float]]]:
    """What the other devices gave last before, and first after, each read."""
    found: dict[int, list[tuple[str, float]]] = {index: [] for index in order}
    for way in (order, order[::-1]):
        last: dict[str, float] = {}
        for index in way:
            device, value = rows[index]
            found[index] += [pair for pair in last.items() if pair[0] != device]
            if value is not None:
                last[device] = value
    return found


def _mistakes(pad: Sequence[int], half: bool, bits: int) -> Iterator[Mistake]:
    low, high = pad[T_LOW], pad[T_HIGH]
    raw, swapped = high << 8 | low, low << 8 | high
    signed, turned = ((number ^ SIGN) - SIGN for number in (raw, swapped))
    yield Mistake("bytes-swapped", turned / 16, f"0x{low:02x}{high:02x} = {turned}, / 16")
    yield Mistake("bytes-swapped", swapped / 16, f"0x{low:02x}{high:02x} = {swapped}, / 16")
    if half:
        yield Mistake("other-type", signed / 16, f"0x{raw:04x} = {signed}, / 16, as a fine one")
    else:
        yield Mistake(
            "other-type", signed / 2, f"0x{raw:04x} = {signed}, / 2, as one of half degrees"
        )
    if raw & SIGN:
        yield Mistake(
            "sign-as-magnitude", raw / 16, f"0x{raw:04x} = {raw}, / 16: no two's complement"
        )
        part = raw & ~SIGN
        yield Mistake("sign-as-magnitude", -part / 16, f"minus 0x{part:04x} = -{part}, / 16")
        yield Mistake("sign-as-magnitude", -signed / 16, f"0x{raw:04x}: {-signed}, / 16, no minus")
    if not half and bits < MOST_BITS:
        undefined = (1 << (MOST_BITS - bits)) - 1
        if raw & undefined:
            yield Mistake(
                "bits-not-masked",
                signed / 16,
                f"0x{raw:04x} = {signed}, / 16: its lowest {MOST_BITS - bits} bits mean nothing at "
                f"{bits} bit",
            )
