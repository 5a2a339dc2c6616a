"""Everything about one 1-Wire transaction."""

from collections.abc import Mapping
from functools import lru_cache, partial
from operator import itemgetter

import numpy as np

from pivet.decode.checks import crc8_of
from pivet.decode.onewire import OneWireExchanges
from pivet.judge.belief import doubt_words, refused_doubt
from pivet.judge.case import findings_of
from pivet.judge.later import Call, Later
from pivet.judge.onewire.case import Case
from pivet.judge.onewire.classes import KEYS
from pivet.judge.onewire.detail import Transaction, transaction_of
from pivet.judge.onewire.findings import TELLERS
from pivet.judge.onewire.judged import REFUSING, JudgedTransactions
from pivet.judge.onewire.notices import HEADLINES, Notice
from pivet.judge.onewire.pulses import PRESENCE, RESET, pulses_of
from pivet.judge.pulses import Pulse
from pivet.judge.report import (
    Check,
    More,
    Report,
    Stretch,
    Value,
    WindowRow,
    as_float,
    headline_of,
    said,
    stretch,
    window_rows,
)
from pivet.judge.verdict import VERDICTS
from pivet.judge.wording import count, us
from pivet.readings.thermometer import text_of
from pivet.sheets.onewire import (
    POLLED,
    ROM_BITS,
    SEARCHES,
    Function,
    code_bytes,
    code_text,
    function_name,
    rom_name,
)

NO_CRC = "No CRC to check: no whole code or scratchpad."

IN_ORDER = itemgetter(*KEYS)
"""The windows of a sheet, in the order of the rows of the classes."""


REFUSALS = (
    Notice.ALL_ONES,
    Notice.ALL_ZEROS,
    Notice.CRC_WRONG,
    Notice.POWER_ON_VALUE,
    Notice.READ_TOO_EARLY,
    Notice.IMPOSSIBLE_VALUE,
    Notice.TOO_DOUBTFUL,
)
assert sum(REFUSALS) == REFUSING


def report(
    exchanges: OneWireExchanges,
    judged: JudgedTransactions,
    index: int,
    wire: str,
    names: Mapping[str, str],
) -> Report:
    """Everything about transaction ``index``.

    Args:
        exchanges: the exchanges of the wire.
        judged: likewise.
        index: number of the transaction.
        wire: name of the wire.
        names: the person's names of devices, by code in kernel form.
    """
    make_pulses = Later(pulses_of, exchanges, judged, index)
    detail = transaction_of(exchanges, judged, index, names)
    case = Case(exchanges, judged, index, make_pulses, detail, names)
    findings = findings_of(case, TELLERS)
    verdict = VERDICTS[judged.verdict[index]]
    pad = judged.pad_of(index)
    values = () if pad is None else _values(case, pad)
    gap = _gap(judged, pad, detail)
    given = pad is not None and bool(judged.given[pad])
    return Report(
        number=index,
        wire=wire,
        sheet=judged.sheet,
        start_ns=int(exchanges.start_ns[index]),
        end_ns=int(exchanges.end_ns[index]),
        verdict=verdict,
        headline=headline_of(verdict, findings, HEADLINES, f"Sound: {done_words(detail)}"),
        data=data_of(exchanges, index),
        check=_check(exchanges, judged, index, pad),
        readings=values if given else (),
        refused=() if given else values,
        gap=gap,
        findings=findings,
        detail=detail,
        make_pulses=make_pulses,
        make_windows=partial(_windows, judged, index),
        make_stretches=partial(_stretches, detail),
        due=bool(values or gap or not detail.presence),
        device=detail.rom or "",
        role=detail.role,
        facts=_facts(detail),
    )


def _windows(judged: JudgedTransactions, index: int) -> list[WindowRow]:
    windows = partial(IN_ORDER, judged.sheet.windows)
    return window_rows(judged, judged.classes, judged.window_verdict, windows, index)


def _facts(detail: Transaction) -> dict[str, object]:
    return {
        "presence": detail.presence,
        "speed": detail.speed,
        "rom_command": None if detail.command is None else f"{detail.command:02x}",
        "rom": detail.rom,
        "function": None if detail.function is None else f"{detail.function:02x}",
        "found": list(detail.found),
    }


def done_words(detail: Transaction) -> str:
    """What a transaction does, in a few words.

    Args:
        detail: what only an exchange of its family has.
    """
    if detail.command is None:
        return "a device is present" if detail.presence else "a reset"
    if detail.searches:
        return f"search, {count(len(detail.found), 'device')} so far"
    if detail.function is None:
        return rom_name(detail.command)
    return function_name(detail.function)


def data_of(exchanges: OneWireExchanges, index: int) -> bytes:
    """Whole bytes written and read, in the order on the wire.

    A search's triplets and the bits that a host polls are bits, no bytes.

    Args:
        exchanges: decoded, columns of n exchanges.
        index: of the exchange, from 0.
    """
    bits = exchanges.bit[exchanges.slots_of(index)]
    if int(exchanges.function[index]) in POLLED:
        bits = bits[: int(exchanges.function_at[index]) + 8]
    if int(exchanges.command[index]) in SEARCHES:
        bits = np.concatenate((bits[:8], bits[8 + 3 * ROM_BITS :]))
    return np.packbits(bits, bitorder="little").tobytes()[: bits.size // 8]


def _check(
    exchanges: OneWireExchanges, judged: JudgedTransactions, index: int, pad: int | None
) -> Check:
    """CRC of the scratchpad if one was read whole, else of the ROM code."""
    has_rom = bool(exchanges.has_rom[index])
    bad_rom = has_rom and crc8_of(code_bytes(int(exchanges.rom[index]))) != 0
    if pad is not None:
        return crc_check(judged.pads.data[:, pad].tobytes(), "scratchpad", bad_rom)
    if has_rom and (bad_rom or exchanges.function[index] != Function.READ_SCRATCHPAD):
        return crc_check(code_bytes(int(exchanges.rom[index])), "ROM code")
    return Check("crc8", None, make_says=Call(str, (NO_CRC,)))


@lru_cache(maxsize=4096)
def crc_check(data: bytes, what: str, spoiled: bool = False) -> Check:
    """A CRC.

    Args:
        data: bytes with their CRC at the end.
        what: what they are, for people.
        spoiled: something else that must hold does not.
    """
    computed, sent = crc8_of(data[:-1]), data[-1]
    says = Call(_crc_words, (data, what, computed))
    return Check("crc8", computed == sent and not spoiled, sent, computed, says)


def _crc_words(data: bytes, what: str, computed: int) -> str:
    return f"CRC-8 of the {what}: {data[:-1].hex(' ')} gives {computed:02x}, sent {data[-1]:02x}"


def _values(case: Case, pad: int) -> tuple[Value, ...]:
    """The temperature that was read, with why it is refused or how old it is."""
    judged, index, detail = case.judged, case.index, case.detail
    if judged.pads.ones[pad]:
        return ()
    value = float(judged.pads.temperatures.values[pad])
    reason = ""
    if not judged.given[pad]:
        words = {**HEADLINES, Notice.TOO_DOUBTFUL.code: doubt_words(float(judged.doubt[pad]))}
        reason = case.first_words(REFUSALS, words, HEADLINES[Notice.CRC_WRONG.code])
    rom = detail.rom or _only_code(judged, index)
    doubt = refused_doubt(float(judged.doubt[pad])) if reason else None
    since = -1 if reason else int(judged.course.since_ns[index])
    about = Call(_about, (detail.role or rom, since))
    text = text_of(value)
    row = Value(
        "temperature", as_float(value), "°C", text, reason, rom, doubt=doubt, make_about=about
    )
    return (row,)


def _about(who: str, since_ns: int) -> More:
    """Whose temperature it is, and how old; -1 ns where that is not known."""
    age = f"converted {us(since_ns / 1000)} before" if since_ns >= 0 else ""
    return said(", ".join(part for part in (who, age) if part))


def _only_code(judged: JudgedTransactions, index: int) -> str:
    """Code of the device, if only one is known."""
    course = judged.course
    return code_text(course.codes[0]) if course.known_later[index] == 1 else ""


def _gap(judged: JudgedTransactions, pad: int | None, detail: Transaction) -> str:
    """Why a scratchpad that was asked for gave no value."""
    if detail.function != Function.READ_SCRATCHPAD:
        return ""
    if pad is not None:
        return "No reading: nobody answered." if judged.pads.ones[pad] else ""
    if detail.pad is not None:
        return f"No reading: {count(len(detail.pad.data), 'byte')} of 9 came."
    return ""


def _stretches(detail: Transaction, pulses: tuple[Pulse, ...]) -> list[Stretch]:
    """Reset, presence, ROM part, function part."""
    found = stretch("reset", "reset", [pulse for pulse in pulses if pulse.column == RESET])
    found += stretch("presence", "pres.", [pulse for pulse in pulses if pulse.column == PRESENCE])
    parts: list[list[tuple[int, int]]] = [[], []]
    for row in detail.rows:
        parts[row.part].append((2 * row.first, 2 * (row.first + row.count)))
    if detail.walk is not None and detail.walk.steps:
        parts[0].append((16, 2 * (8 + 3 * len(detail.walk.steps))))
    words = ("", "")
    if detail.command is not None:
        who = detail.role or detail.rom or ""
        name = rom_name(detail.command)
        words = (f"{name} {who}".strip(), function_name(detail.function or 0))
    for part, text in zip(parts, words, strict=True):
        if part:
            first, last = min(bounds[0] for bounds in part), max(bounds[1] for bounds in part)
            inside = [pulse for pulse in pulses if first <= pulse.column < last]
            found += stretch(text, text[:8], inside)
    return found
