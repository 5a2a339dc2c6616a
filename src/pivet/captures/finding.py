"""Finding the wires of a capture: which lines carry which family's exchanges."""

from collections.abc import Sequence

from pivet.captures.looking import KNOWN, Found, Looker, is_part, names_of
from pivet.captures.offers import Offer
from pivet.captures.wire import Wire, make_wire
from pivet.families import FAMILIES, family_of
from pivet.frozen import FrozenObject
from pivet.judge.judgement import Likeness
from pivet.person.choices import WireChoices
from pivet.progress import Progress, each, part
from pivet.signal.trace import Line, Trace


class Finds(FrozenObject):
    """What some lines carry.

    Attributes:
        wires: decoded and judged.
        offers: what others may be, for the person to say.
    """

    wires: tuple[Wire, ...]
    offers: tuple[Offer, ...] = ()


SEARCH_SHARE, ALONE_SHARE, OTHERS_SHARE = 0.6, 0.7, 0.9
"""Finding wires is search up to here; the search looks at lines alone, then at several together."""

Search = tuple[Sequence[Found], Sequence[Offer]]


def find_wires(
    lines: tuple[Line, ...],
    trace: Trace,
    choices: WireChoices,
    named: bool,
    progress: Progress,
    invert: bool = False,
) -> Finds:
    """The wires among some lines, decoded and judged.

    Args:
        lines: that change.
        trace: the trace they belong to.
        choices: of the person; a sheet limits the search to its family, and makes named lines a
            wire whatever they look like.
        named: the person named these lines.
        progress: called with the share done, 0 to 1.
        invert: lines that are recognised turned over are decoded so; those that are named are
            turned over in any case.

    Raises:
        Cancelled: ``progress`` raised it.
    """
    sheet = choices.sheet
    families = FAMILIES if sheet is None else {sheet.family: family_of(sheet)}
    looker, chosen = Looker(trace, families), sheet is not None
    search = _named if named else _searched
    found, offers = search(lines, looker, chosen, invert, part(progress, 0.0, SEARCH_SHARE))
    wires = tuple(
        make_wire(one.family, one.lines, trace, one.exchanges, choices)
        for one in each(found, part(progress, SEARCH_SHARE, 1.0))
    )
    progress(1.0)
    return Finds(wires, tuple(offers))


def _named(
    lines: tuple[Line, ...], looker: Looker, chosen: bool, invert: bool, progress: Progress
) -> Search:
    """Lines that the person named: the family that they look like most."""
    turned = looker.turned(lines) if invert else None
    if turned is not None:
        return [looker.whole(turned.family, turned.lines, progress)], []
    if invert:
        lines = tuple(line.turned_over() for line in lines)
    best = looker.best(lines, progress)
    if best.likeness in KNOWN:
        return [best], []
    over = None if invert else looker.turned(lines)
    offers = _offers([best]) if over is None else [_inverted(over)]
    return ([best] if chosen else []), offers


def _searched(
    lines: tuple[Line, ...], looker: Looker, chosen: bool, invert: bool, progress: Progress
) -> Search:
    total = max(sum(line.edges_ns.size for line in lines), 1)
    found, done, alone = [], 0, part(progress, 0.0, ALONE_SHARE)
    for line in lines:
        before, done = done, done + line.edges_ns.size
        found.append(looker.single(line, part(alone, before / total, done / total)))
    free = [one.lines[0] for one in found if one.likeness is not Likeness.ANSWERED]
    together = part(progress, ALONE_SHARE, OTHERS_SHARE)
    found = _instead(found, looker.pairs(free, together))
    used = names_of([one for one in found if len(one.lines) > 1])
    answered = [one for one in found if one.likeness is Likeness.ANSWERED]
    unused = [line for line in free if line.name not in used]
    inverted = looker.all_turned(unused, answered, together)
    offers = _offers(found)
    if invert:
        found = _instead(found, [looker.whole(look.family, look.lines) for look in inverted])
    else:
        offers = [*map(_inverted, inverted), *offers]
    found = _in_order(found, lines)
    for likeness in Likeness:
        alike = [one for one in found if one.likeness is likeness and len(one.exchanges)]
        if alike and (likeness in KNOWN or chosen):
            rows = each(alike, part(progress, OTHERS_SHARE, 1.0))
            wires = [one for one in rows if not is_part(one, alike)]
            taken = names_of(wires)
            return wires, [offer for offer in offers if taken.isdisjoint(offer.names.split(","))]
    return [], offers


def _instead(found: Sequence[Found], others: Sequence[Found]) -> list[Found]:
    """Others in place of those that have lines in common with them."""
    names = names_of(others)
    return [*(one for one in found if names.isdisjoint(one.names)), *others]


def _in_order(found: Sequence[Found], lines: tuple[Line, ...]) -> list[Found]:
    """In the order of the capture's lines."""
    place = {line.name: number for number, line in enumerate(lines)}
    return sorted(found, key=lambda one: min(place.get(name, len(place)) for name in one.names))


def _offers(found: Sequence[Found]) -> list[Offer]:
    """What each of some lines may be, where its family has something to say of it."""
    offers = []
    for one in found:
        nearest = None if one.likeness in KNOWN else one.family.nearest(one.exchanges)
        if nearest is not None:
            offers.append(Offer(",".join(line.name for line in one.lines), *nearest))
    return offers


def _inverted(found: Found) -> Offer:
    """That lines carry answers once some of them are turned over."""
    over = [line.name for line in found.lines if line.turned]
    it = "it carries" if len(over) == len(found.lines) else f"{over[0]} makes it"
    says = (
        f"turned over {it} {found.family.title}: a transistor or an opto-coupler stands before "
        "the recorder"
    )
    return Offer(",".join(line.name for line in found.lines), says, inverted=True)
