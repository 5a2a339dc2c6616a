"""Findings on what was said on the line: codes, scratchpads, conversions."""

from collections.abc import Callable, Iterator

from pivet.decode.checks import crc8_of
from pivet.judge.belief import DOUBT_ADVICE, says_doubt
from pivet.judge.finding import Finding
from pivet.judge.onewire.case import Case
from pivet.judge.onewire.notices import Notice
from pivet.judge.wording import count, us
from pivet.readings.thermometer import HIGHEST_C, LOWEST_C, text_of
from pivet.sheets.onewire import Rom, code_bytes


def _all_ones(case: Case) -> Iterator[Finding]:
    if case.judged.pad_of(case.index) is None:
        says = "All 64 bits of the code are 1: nobody gave one."
    else:
        says = f"Nine FF bytes: {case.meant} did not answer, nobody held the line."
        if case.detail.rom is None:
            says = "Nine FF bytes: nobody answered, nobody held the line."
    yield case.finding(
        Notice.ALL_ONES,
        says,
        "Look for a plug pulled off or a wrong code; the line itself is fine.",
        None,
        *case.payload_columns(),
    )


def _too_doubtful(case: Case) -> Iterator[Finding]:
    pad = case.judged.pad_of(case.index)
    if pad is not None:
        doubt = float(case.judged.doubt[pad])
        yield case.finding(
            Notice.TOO_DOUBTFUL,
            says_doubt("the CRC", doubt),
            DOUBT_ADVICE,
            None,
            *case.payload_columns(),
        )


def _broken_off(case: Case) -> Iterator[Finding]:
    pad = case.judged.pad_of(case.index)
    if pad is not None:
        data = case.judged.pads.data[:, pad].tobytes()
        number = len(data.rstrip(b"\xff"))
        yield case.finding(
            Notice.BROKEN_OFF,
            f"After {count(number, 'byte')} only ones came: {case.meant} fell silent on the way.",
            "Look for a plug pulled off, a loose contact, or a supply that dips.",
            None,
            *case.payload_columns(),
        )
        return
    slots = int(case.exchanges.slot_count[case.index])
    yield case.finding(
        Notice.BROKEN_OFF,
        f"A reset comes in the middle of a byte, after {count(slots, 'bit')}.",
        "Look for another host on this line, or firmware that is interrupted.",
        int(case.exchanges.end_ns[case.index]),
    )


def _all_zeros(case: Case) -> Iterator[Finding]:
    what = "Nine zero bytes" if case.judged.pad_of(case.index) is not None else "A code of zeros"
    yield case.finding(
        Notice.ALL_ZEROS,
        f"{what}: the CRC of zeros is zero and so holds, yet nothing was sent.",
        "Look for a line shorted low, or a device that holds it.",
        None,
        *case.payload_columns(),
    )


def _crc_wrong(case: Case) -> Iterator[Finding]:
    pads, pad = case.judged.pads, case.judged.pad_of(case.index)
    if pad is not None and not pads.holds[pad] and not pads.ones[pad]:
        yield case.finding(
            Notice.CRC_WRONG,
            _crc_words(pads.data[:, pad].tobytes()),
            "Drop this reading; look for pulses near their limits, or for devices that mix.",
            None,
            *case.payload_columns(),
        )
    if case.exchanges.has_rom[case.index] and not case.judged.rom_holds[case.index]:
        yield _wrong_code(case)


def _wrong_code(case: Case) -> Finding:
    """A code whose CRC does not hold, and the device that it probably was."""
    code = int(case.exchanges.rom[case.index])
    words = _crc_words(code_bytes(code))
    says = f"In the ROM code: {words[0].lower()}{words[1:]}"
    probable = case.judged.course.probable.get(case.index)
    if probable is not None:
        known = case.judged.course.codes[probable]
        says += (
            f" But for bit {(known ^ code).bit_length()} it is the code of {case.called(known)}."
        )
    advice = "Look for a misread bit."
    if case.exchanges.command[case.index] == Rom.READ:
        advice = "Read ROM is for a line with one device only: search instead."
    return case.finding(Notice.CRC_WRONG, says, advice, None, *range(16, 144, 2))


def _crc_words(data: bytes) -> str:
    number = count(len(data) - 1, "byte")
    return (
        f"The CRC is wrong: the first {number} give {crc8_of(data[:-1]):02x}, "
        f"but {data[-1]:02x} was sent."
    )


def _power_on(case: Case) -> Iterator[Finding]:
    yield case.finding(
        Notice.POWER_ON_VALUE,
        f"Exactly 85 °C is what a thermometer holds from power-on: {_why(case)}.",
        _power_advice(case),
        None,
        *case.payload_columns()[:32],
    )


def _power_advice(case: Case) -> str:
    if case.has(Notice.PARASITE_POWERED) or case.judged.course.parasite[case.index]:
        return (
            "Drop it. It lives on the line's power: give it a strong pull-up within 10 µs of the "
            "convert command."
        )
    return (
        "Drop it. See whether its supply dips (on two wires it needs a strong pull-up while it "
        "converts), and start a conversion before reading."
    )


def _maybe_power_on(case: Case) -> Iterator[Finding]:
    yield case.finding(
        Notice.MAYBE_POWER_ON,
        "Exactly 85 °C may be measured, or be what a thermometer holds from power-on.",
        "Compare with the next reading.",
        None,
        *case.payload_columns()[:32],
    )


def _why(case: Case) -> str:
    if case.judged.course.since_ns[case.index] < 0:
        return "no conversion was started before"
    return "it was converted before, so its supply dipped in between"


def _read_early(case: Case) -> Iterator[Finding]:
    course = case.judged.course
    since, due = int(course.since_ns[case.index]), int(course.due_ns[case.index])
    yield case.finding(
        Notice.READ_TOO_EARLY,
        f"Read {us(since / 1000)} after the conversion was started, which may take "
        f"{us(due / 1000)}: this may be the value before.",
        "Wait longer, or read single bits until one is 1; copies may be faster, do not rely on it.",
    )


def _not_converted(case: Case) -> Iterator[Finding]:
    since = int(case.judged.course.since_ns[case.index])
    says = (
        "No conversion before this read is in the capture."
        if since < 0
        else f"Read again without a new conversion; the last was {us(since / 1000)} before."
    )
    yield case.finding(Notice.NOT_CONVERTED, says, "")


def _parasite_disturbed(case: Case) -> Iterator[Finding]:
    yield case.finding(
        Notice.PARASITE_DISTURBED,
        "A device that lives on the line's power converts, but the line does not stay quiet.",
        "Drive the line high within 10 µs of the command, and leave it so until it is done.",
        None,
        *case.payload_columns(),
    )


def _parasite_powered(case: Case) -> Iterator[Finding]:
    yield case.finding(
        Notice.PARASITE_POWERED,
        "A device here lives on the line's power (it answered 0 to read power supply).",
        "It needs a strong pull-up while it converts.",
    )


def _impossible(case: Case) -> Iterator[Finding]:
    pad = case.judged.pad_of(case.index)
    if pad is not None:
        value = float(case.judged.pads.temperatures.values[pad])
        family = int(case.exchanges.rom[case.index]) & 0xFF
        low, high = (int(bounds[family]) for bounds in (LOWEST_C, HIGHEST_C))
        yield case.finding(
            Notice.IMPOSSIBLE_VALUE,
            f"{text_of(value)} °C cannot come from such a thermometer ({low:g} to {high:g} °C).",
            "See whether it is of another family.",
        )


def _ended_early(case: Case) -> Iterator[Finding]:
    got = len(case.detail.pad.data) if case.detail.pad is not None else 0
    yield case.finding(
        Notice.ENDED_EARLY,
        f"The host stopped reading after {count(got, 'byte')} of 9, which it may: "
        "there is no CRC to check.",
        "",
    )


TELL: dict[Notice, Callable[[Case], Iterator[Finding]]] = {
    Notice.CRC_WRONG: _crc_wrong,
    Notice.ALL_ONES: _all_ones,
    Notice.ALL_ZEROS: _all_zeros,
    Notice.POWER_ON_VALUE: _power_on,
    Notice.READ_TOO_EARLY: _read_early,
    Notice.PARASITE_DISTURBED: _parasite_disturbed,
    Notice.IMPOSSIBLE_VALUE: _impossible,
    Notice.TOO_DOUBTFUL: _too_doubtful,
    Notice.BROKEN_OFF: _broken_off,
    Notice.MAYBE_POWER_ON: _maybe_power_on,
    Notice.NOT_CONVERTED: _not_converted,
    Notice.ENDED_EARLY: _ended_early,
    Notice.PARASITE_POWERED: _parasite_powered,
}
