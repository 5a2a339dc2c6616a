"""A board that is simulated: a real microcontroller's program on a chip in software.

The firmware is Pivet's own (``firmware/``), byte for byte as it is flashed; the chip is simulated
cycle by cycle by simavr, the sensors on its pins are made of edges, and its serial line ends at a
pseudo-terminal.  It is built here from a checkout, by Debian's compilers.
"""

import contextlib
import fcntl
import shutil
import subprocess
from collections.abc import Iterator, Sequence
from pathlib import Path

from pivet.errors import InputError

FIRMWARE = Path(__file__).parents[3] / "firmware"
TOOLS = ("make", "gcc", "avr-gcc")
PACKAGES = "make gcc libc6-dev gcc-avr avr-libc libsimavr-dev libelf1"
CHIPS = ("atmega328p", "atmega2560")
BAUD = 1_000_000

WIRES = (
    ("shelf_A", ("D2",), "D2=22:92,11.8"),
    ("wash_room", ("D8",), "D8=11:78,14"),
    ("wheels", ("D4",), "D4=onewire:3"),
    ("brine_vat", ("D9", "A0"), "D9=echo@A0:0.58"),
)
"""Wires of the cave at the pins of a small board: name, lines, and what hangs on them.

The 11-type hangs on the fine line: its windows are narrower than an interrupt is exact.
"""

ATTACHED = tuple(hangs for _, _, hangs in WIRES)

SAYS = (
    "Simulated here: an ATmega328P, on which Pivet's own firmware runs, and the sensors on its "
    "pins. Firmware, link, port and all behind it are what a real board has."
)
END_S = 3.0


@contextlib.contextmanager
def _alone(folder: Path) -> Iterator[None]:
    """One process builds at a time."""
    folder.mkdir(parents=True, exist_ok=True)
    with (folder / "lock").open("w") as file:
        fcntl.flock(file, fcntl.LOCK_EX)
        yield


def built(chip: str = CHIPS[0], baud: int = BAUD) -> tuple[Path, Path]:
    """The simulator and the firmware for it, built if they are not there.

    Args:
        chip: one of ``CHIPS``.
        baud: speed of the serial line, bits a second.

    Raises:
        InputError: this is no checkout, or what builds them is missing.
    """
    if not (FIRMWARE / "Makefile").exists():
        raise InputError(
            "the firmware is not here", "take a checkout of Pivet: it is built from there"
        )
    missing = [tool for tool in TOOLS if shutil.which(tool) is None]
    if missing:
        raise InputError(
            f"{', '.join(missing)} is missing, by which the board is built",
            f"apt-get install {PACKAGES}",
        )
    folder = FIRMWARE / "build"
    elf = folder / f"pivet-{chip}-{baud}.elf"
    with _alone(folder):
        done = subprocess.run(
            ["make", "-s", "-C", str(FIRMWARE), f"BAUD={baud}", "build/chip", f"build/{elf.name}"],
            check=False,
            capture_output=True,
            text=True,
        )
    if done.returncode:
        last = done.stderr.strip().rpartition("\n")[2]
        raise InputError(f"the board cannot be built: {last}", f"apt-get install {PACKAGES}")
    return folder / "chip", elf


class Board:
    """A simulated board, while it runs.

    Args:
        attached: what hangs on its lines, as ``firmware/sim/chip.c`` says it.
        chip: one of ``CHIPS``.
        baud: speed of its serial line, bits a second.
        options: others of the simulator.

    Attributes:
        path: the path of its port.

    Raises:
        InputError: it cannot be built, or does not start.
    """

    def __init__(
        self,
        attached: Sequence[str] = ATTACHED,
        chip: str = CHIPS[0],
        baud: int = BAUD,
        options: Sequence[str] = (),
    ) -> None:
        program, elf = built(chip, baud)
        words = [str(program), "--mcu", chip, "--firmware", str(elf), "--baud", str(baud), *options]
        for kind in attached:
            words += ["--attach", kind]
        self._process = subprocess.Popen(
            words, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True
        )
        assert self._process.stdout is not None
        self.path = self._process.stdout.readline().strip()
        if not self.path:
            assert self._process.stderr is not None
            says = self._process.stderr.read().strip().removeprefix("error: ")
            self.close()
            raise InputError(f"the simulated board does not start: {says}", "see firmware/README")

    def order(self, line: str) -> str:
        """Tells it to do something; gives what it answers, ``ok`` where that is all.

        Args:
            line: as ``firmware/sim/chip.c`` says.

        Raises:
            InputError: it cannot do that, or has ended.
        """
        assert self._process.stdin is not None and self._process.stdout is not None
        try:
            self._process.stdin.write(f"{line}\n")
            self._process.stdin.flush()
        except OSError as error:
            raise InputError("the simulated board has ended", "start it again") from error
        answer = self._process.stdout.readline().strip()
        if answer.isdigit():
            self._process.stdout.readline()
        if not answer or answer.startswith("error: "):
            raise InputError(f"{line!r}: {answer.removeprefix('error: ') or 'no answer'}", "")
        return answer

    def close(self) -> None:
        """Ends it."""
        for stream in (self._process.stdin, self._process.stdout, self._process.stderr):
            if stream is not None:
                with contextlib.suppress(OSError):
                    stream.close()
        try:
            self._process.wait(END_S)
        except subprocess.TimeoutExpired:
            self._process.kill()
            self._process.wait()

    def __enter__(self) -> "Board":
        return self

    def __exit__(self, *_: object) -> None:
        self.close()
