"""What listening tells, printed for people or as JSON Lines."""

import math
import time
from collections.abc import Callable, Iterator, Sequence
from datetime import datetime
from typing import Any

from pivet.captures.text import exchange_lines
from pivet.cli.roles_command import own_roles
from pivet.cli.source_lines import about_lines
from pivet.cli.terminal import say, say_json
from pivet.files.jsonl import exchange_object, json_text
from pivet.judge.verdict import WORDS, Verdict
from pivet.judge.wording import count
from pivet.listening import events as ev
from pivet.listening.calendar import Calendar
from pivet.listening.taker import Taker

GRACE_S = 0.5
OPENED, AWAY, BACK = "▶", "⏸", "●"


class Printer(Taker):
    """Prints what listening tells, for people.

    Args:
        calendar: beside the source's clock.

    Attributes:
        trouble: why nothing can be printed any more; None while it can.
        ending: whether the person wants an end: what waits to be printed then is only counted.
    """

    what = "the terminal"
    ending: Callable[[], bool] = staticmethod(lambda: False)

    def __init__(self, calendar: Calendar) -> None:
        self.names = own_roles().names
        self.trouble: OSError | None = None
        self._calendar, self._unprinted = calendar, 0
        self._until = math.inf

    def take(self, events: Sequence[ev.Event]) -> None:
        """Prints events; when nobody can read them any more it is over."""
        try:
            for event in events if self.trouble is None else ():
                if isinstance(event, ev.Heard) and self._is_late():
                    self._unprinted += 1
                else:
                    self.show(event)
        except OSError as error:
            self.trouble = error

    def _is_late(self) -> bool:
        """Whether the person has waited long enough for the end."""
        if not self.ending():
            return False
        now = time.monotonic()
        self._until = min(self._until, now + GRACE_S)
        return now > self._until

    def close(self) -> None:
        """Says how much was not printed."""
        if self._unprinted:
            number = count(self._unprinted, "more exchange")
            say(f"pivet: {number} were heard, and not printed.", error=True)

    def show(self, event: ev.Event) -> None:
        """Prints an event."""
        for line in self.lines(event):
            say(line)

    def lines(self, event: ev.Event) -> Iterator[str]:
        """An event as lines."""
        if isinstance(event, ev.Opened):
            if event.again:
                yield f"{OPENED} {event.about.name} is back."
            else:
                yield from about_lines(event.about)
        elif isinstance(event, ev.Heard):
            yield from self._exchange(event)
        elif isinstance(event, ev.Silent):
            yield f"{AWAY} {self._who(event.wire, event.code)} gives no reading: {event.says}"
            if event.look:
                yield f"    {event.look}"
        else:
            yield from self._word(event)

    def _word(self, event: ev.Event) -> Iterator[str]:
        """An event of one line."""
        if isinstance(event, ev.Away):
            yield f"{AWAY} {event.says}"
        elif isinstance(event, ev.Note):
            yield f"  note: {event.wire + ': ' if event.wire else ''}{event.says}"
        elif isinstance(event, ev.Known):
            yield f"  {event.wire}: {event.found.says}"
        elif isinstance(event, ev.Missed):
            yield f"  {event.wire}: {missed_text(event)}"
        elif isinstance(event, ev.Withdrawn):
            yield f"  {event.wire}: exchange {event.number - 1} belongs to the one before it"
        elif isinstance(event, ev.Total):
            yield from self._total(event)
        elif isinstance(event, ev.Fed):
            yield f"  feed {event.feed}: {fed_text(event)}"
        elif isinstance(event, ev.Back):
            yield f"{BACK} {self._who(event.wire, event.code)} gives readings again."

    def _who(self, wire: str, code: str) -> str:
        return f"{wire}, {self.names.get(code, code)}" if code else wire

    def _exchange(self, event: ev.Heard) -> Iterator[str]:
        report = event.report(self.names)
        clock = self._calendar.wall_time(report.start_ns).strftime("%H:%M:%S.%f")[:-3]
        tries = f" (try {event.attempt})" if event.attempt > 1 else ""
        tries += " (told again)" if event.revised else ""
        rows = exchange_lines(
            report, {finding.code for finding in report.findings if not finding.weight}
        )
        for number, line in enumerate(rows):
            yield f"{clock} {event.wire:<14}{line}{tries}" if not number else line

    def _total(self, event: ev.Total) -> Iterator[str]:
        """How it went on a wire."""
        parts = [
            f"{number} {verdict.title}"
            for verdict, number in zip(Verdict, event.by_verdict, strict=True)
            if number
        ]
        if event.retries:
            parts.append(count(event.retries, "retry", "retries"))
        if event.exchanges:
            yield f"{event.wire}: {count(event.exchanges, 'exchange')}: {', '.join(parts)}"


class QuietPrinter(Printer):
    """Prints nothing: what is told goes to a bench and a log."""

    def show(self, event: ev.Event) -> None:
        """Prints nothing."""


class JsonPrinter(Printer):
    """Prints one JSON object an event; see docs/json.md."""

    def show(self, event: ev.Event) -> None:
        """Prints an event."""
        found = self._object(event)
        if found is not None:
            say_json(json_text(found))

    def _object(self, event: ev.Event) -> dict[str, Any] | None:
        at = datetime.now().astimezone().isoformat(timespec="milliseconds")
        if isinstance(event, ev.Heard):
            return self._heard(event)
        if isinstance(event, ev.Opened):
            return {
                "event": "back" if event.again else "open",
                "at": at,
                "source": event.about.name,
            }
        if isinstance(event, ev.Away):
            return {"event": "away", "at": at, "says": event.says}
        if isinstance(event, ev.Note):
            return {"event": "note", "at": at, "wire": event.wire or None, "says": event.says}
        if isinstance(event, ev.Known):
            sheet = event.found.sheet
            return {
                "event": "known",
                "at": at,
                "wire": event.wire,
                "sensor": sheet.id if sheet else None,
                "says": event.found.says,
            }
        if isinstance(event, ev.Missed):
            return {
                "event": "gap",
                "at": at,
                "wire": event.wire,
                "from": self._wall(event.gap.start_ns),
                "to": self._wall(event.gap.end_ns),
                "seconds": (event.gap.end_ns - event.gap.start_ns) / 1e9,
                "lost": event.gap.lost,
                "why": event.gap.why,
                "says": missed_text(event),
            }
        if isinstance(event, ev.Silent | ev.Back):
            silent = isinstance(event, ev.Silent)
            found: dict[str, Any] = {
                "event": "silent" if silent else "sensor-back",
                "at": at,
                "wire": event.wire,
                "device": event.code or None,
            }
            if isinstance(event, ev.Silent):
                found |= {
                    "exchange": event.number - 1,
                    "reason": event.reason or None,
                    "why": event.says,
                    "look": event.look or None,
                }
                found["says"] = f"{event.says} {event.look}".strip()
            return found
        return self._rare(event, at)

    def _rare(self, event: ev.Event, at: str) -> dict[str, Any] | None:
        """What is told once, or hardly ever."""
        if isinstance(event, ev.Withdrawn):
            number = event.number - 1
            return {"event": "withdrawn", "at": at, "wire": event.wire, "exchange": number}
        if isinstance(event, ev.Total):
            verdicts = dict(zip(WORDS, event.by_verdict, strict=True))
            total = {"exchanges": event.exchanges, "retries": event.retries}
            return {"event": "end", "wire": event.wire, **total, **verdicts}
        if isinstance(event, ev.Fed):
            return {
                "event": "feed",
                "at": at,
                "feed": event.feed,
                "state": event.state,
                "waiting": event.waiting,
                "behind_s": round(event.behind_s, 1),
                "sent": event.sent,
                "error": event.trouble or None,
            }
        return None

    def _wall(self, t_ns: int) -> str:
        return self._calendar.wall_time(t_ns).isoformat(timespec="milliseconds")

    def _heard(self, event: ev.Heard) -> dict[str, Any]:
        report = event.report(self.names)
        return {
            "event": "exchange",
            "at": self._wall(report.start_ns),
            "attempt": event.attempt,
            "revised": event.revised,
            **exchange_object(report),
        }


def fed_text(event: ev.Fed) -> str:
    """How a feed is doing, for people."""
    waiting = f", {count(event.waiting, 'exchange')} waiting" if event.waiting else ""
    trouble = f": {event.trouble}" if event.trouble else ""
    return f"{event.state}{waiting}{trouble}"


def missed_text(event: ev.Missed) -> str:
    """A gap, for people."""
    gap = event.gap
    lost = "" if gap.lost is None else f", {count(gap.lost, 'edge')} lost"
    return f"not known for {(gap.end_ns - gap.start_ns) / 1e9:.3f} s: {gap.why}{lost}"
