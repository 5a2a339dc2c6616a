"""Notifications of the desktop, by the freedesktop.org specification (over D-Bus)."""

import threading
from html import escape

SERVICE = "org.freedesktop.Notifications"
PATH = "/org/freedesktop/Notifications"
SIGNATURE = "susssasa{sv}i"
TIMEOUT_S = 2.0
DEFAULT_MS = -1
"""Shown as long as the desktop thinks right."""


def notify(title: str, text: str) -> bool:
    """Shows a notification; whether there was a desktop to show it.

    Where there is none the notice in the window stands alone.  The text may hold marks by the
    specification, so names in it are escaped.
    """
    from jeepney import DBusAddress, new_method_call
    from jeepney.io.blocking import open_dbus_connection

    address = DBusAddress(PATH, bus_name=SERVICE, interface=SERVICE)
    body: tuple[object, ...] = (
        "Pivet",
        0,
        "org.pivet.Pivet",
        title,
        escape(text),
        [],
        {},
        DEFAULT_MS,
    )
    try:
        with open_dbus_connection(bus="SESSION") as connection:
            call = new_method_call(address, "Notify", SIGNATURE, body)
            reply = connection.send_and_get_reply(call, timeout=TIMEOUT_S)
    except Exception:  # noqa: BLE001  no bus, no service, no answer: all mean no desktop
        return False
    return int(reply.header.message_type.value) == METHOD_RETURN


METHOD_RETURN = 2


def notify_later(title: str, text: str) -> None:
    """The same, without anybody waiting for the desktop."""
    threading.Thread(target=notify, args=(title, text), daemon=True).start()
