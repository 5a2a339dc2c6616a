"""Templates: the topic of a message, and the body of a request, with places for fields.

A body is JSON.  A text of it that is nothing but a place, ``"{temperature}"``, becomes the value
itself, a number for instance; ``"{temperature?}"`` leaves its entry out where there is no value.
A place within a longer text becomes a part of it.
"""

import json
import re
from collections.abc import Mapping
from typing import Any

from pivet.errors import InputError
from pivet.feeds.message import FIELDS, text_of
from pivet.readings.units import QUANTITIES

PLACE = re.compile(r"\{([^{}]*)\}")
KEY, ROWS = "key", "rows"
LEFT_OUT = object()
TOPIC_FIELDS = frozenset({"wire", "device", "who", "role", "code", "quantity"})
"""``device`` is what people call it: its role, else its code."""

MOST_TOPIC = 60_000
"""Bytes of a topic that MQTT can carry are 65,535."""


def topic_of(template: str, fields: Mapping[str, str]) -> str:
    """A topic; levels that turn out empty are left out, and nothing in a name parts levels.

    Args:
        template: with places like ``{wire}``.
        fields: what stands there.
    """
    levels = []
    for level in template.split("/"):
        filled = PLACE.sub(lambda found: _level(fields.get(found[1], "")), level)
        if filled or not PLACE.search(level):
            levels.append(filled)
    return "/".join(levels)[:MOST_TOPIC]


def _level(name: str) -> str:
    """A name as a part of a topic: what means something in topics becomes a low line."""
    return re.sub(r"[/+#\x00-\x1f\x7f]", "_", name)


def base_of(template: str) -> str:
    """What of a topic comes before its first place: there the state of the feed stands.

    Args:
        template: with places like ``{wire}``.
    """
    return template.partition("{")[0].rstrip("/") or "pivet"


def check_topic(template: str) -> None:
    """Refuses what is no topic to publish to.

    Args:
        template: as a person gave it.

    Raises:
        InputError: it is none; says why.
    """
    plain = PLACE.sub("x", template)
    if not plain or "#" in plain or "+" in plain or "\0" in plain or plain.startswith("$"):
        raise InputError(
            f"{template!r} is no topic to publish to", "leave out + and #, and a $ at its beginning"
        )
    _check_places(PLACE.findall(template), TOPIC_FIELDS, template)


def _check_places(places: list[str], known: frozenset[str] | set[str], template: str) -> None:
    for place in places:
        if place.removesuffix("?") not in known:
            raise InputError(
                f"the template {template[:60]!r} has a place {{{place[:40]}}} that nothing fills",
                f"these are there: {', '.join(sorted(known))}",
            )


class Body:
    """The body of requests.

    Args:
        text: JSON; an object with ``each`` and ``body`` has a part for each row, which stand in
            ``body`` where ``"{rows}"`` is.  Else a request has one row.

    Raises:
        InputError: it is no JSON, or has places that nothing fills.
    """

    def __init__(self, text: str) -> None:
        try:
            template = json.loads(text)
        except (ValueError, RecursionError) as error:
            raise InputError(f"the template is no JSON ({error})", "mend it there") from error
        several = isinstance(template, dict) and set(template) == {"each", "body"}
        self._each = template["each"] if several else None
        self._body = template["body"] if several else template
        quantities = {q + end for q in QUANTITIES for end in ("", ".raw", ".unit")}
        row = {*FIELDS, *quantities, KEY}
        _check_places(_places(self._each), row, "each")
        _check_places(_places(self._body), {KEY, ROWS} if several else row, text)
        self.several = several

    @property
    def has_key(self) -> bool:
        """Whether the key has a place in it."""
        return KEY in {*_places(self._each), *_places(self._body)}

    def filled(self, rows: list[Mapping[str, Any]], key: str) -> Any:
        """The body for some rows.

        Args:
            rows: the fields of each; one, unless ``several``.
            key: of the service.
        """
        if not self.several:
            return _filled(self._body, {**rows[0], KEY: key})
        each = [_filled(self._each, {**row, KEY: key}) for row in rows]
        return _filled(self._body, {KEY: key, ROWS: each})


def _places(template: Any) -> list[str]:
    if isinstance(template, str):
        return PLACE.findall(template)
    if isinstance(template, dict):
        return [place for pair in template.items() for part in pair for place in _places(part)]
    if isinstance(template, list):
        return [place for part in template for place in _places(part)]
    return []


def _filled(template: Any, fields: Mapping[str, Any]) -> Any:
    if isinstance(template, str):
        whole = PLACE.fullmatch(template)
        if whole is None:
            return PLACE.sub(lambda found: text_of(fields.get(found[1].rstrip("?"))), template)
        value = fields.get(whole[1].rstrip("?"))
        return LEFT_OUT if value is None and whole[1].endswith("?") else value
    if isinstance(template, dict):
        pairs = [(_filled(key, fields), _filled(part, fields)) for key, part in template.items()]
        return {text_of(key): part for key, part in pairs if part is not LEFT_OUT}
    if isinstance(template, list):
        parts = [_filled(part, fields) for part in template]
        return [part for part in parts if part is not LEFT_OUT]
    return template
