"""Ways of sending by their kind, each loaded when it is first needed."""

from pivet.errors import InputError
from pivet.feeds.sender import Sender
from pivet.feeds.setup import FeedSetup, Kind
from pivet.feeds.template import Body, check_topic


def make_sender(setup: FeedSetup, name: str) -> Sender:
    """What sends for a feed.

    Args:
        setup: of the feed.
        name: of the feed.

    Raises:
        InputError: its template makes no sense.
    """
    if setup.kind is Kind.MQTT:
        from pivet.feeds.mqtt import MqttSender

        check_topic(setup.topic)
        return MqttSender(setup, name)
    if setup.kind is Kind.HTTP:
        from pivet.feeds.http import HttpSender

        return HttpSender(setup, name)
    from pivet.feeds.metrics import MetricsSender

    return MetricsSender(setup, name)


def check_templates(setup: FeedSetup) -> None:
    """Refuses topics and bodies that make no sense, without loading what sends.

    Args:
        setup: as a person gave it.

    Raises:
        InputError: one makes no sense.
    """
    if setup.kind is Kind.MQTT:
        check_topic(setup.topic)
    elif setup.kind is Kind.HTTP:
        body = Body(setup.template) if setup.template else None
        if setup.key_at == "body" and (body is None or not body.has_key):
            raise InputError(
                "the key is to stand in the body, where it has no place",
                "give a template with {key} in it",
            )
