"""What the firmware keeps on simulated chips; writes the table of firmware/README.md anew."""

import re
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from pivet.standin.board import FIRMWARE, built
from tests.firmware.chip import Chip

README = FIRMWARE / "README.md"
BEGIN, END = "<!-- table -->\n", "<!-- end of the table -->\n"
RATES = {1_000_000: 32_000, 500_000: 24_000, 115_200: 4_000}
RAM_BEGINS = 0x100
"""Of the ATmega328P."""

EDGES = 20_000


def _errors(chip: Chip, count: int, lines: tuple[str, ...]) -> dict[str, np.ndarray]:
    """How far the stamps of edges are off, µs; about their middle."""
    chip.until(lambda: all(chip.edges_us(line).size >= count for line in lines), 120.0)
    told = {line: chip.edges_us(line) for line in lines}
    pins = chip.pins_us()
    off = {line: told[line][:count] - pins[line][-count:] for line in lines}
    return {line: row - np.median(row) for line, row in off.items()}


def _said(errors: np.ndarray) -> str:
    """Share within 0.5 µs, and the worst."""
    off = np.abs(errors)
    most = np.percentile(off, 99.9)
    return (
        f"{np.mean(off <= 0.5) * 100:.2f} % within 0.5 µs, 99.9 % within {most:.2f} µs, all within "
        f"{off.max():.2f} µs"
    )


def _played(
    folder: Path, lines: tuple[str, ...], mean_us: float, count: int, **options: object
) -> dict[str, np.ndarray]:
    chip = Chip(folder, **options)  # type: ignore[arg-type]
    chip.listen(*lines)
    for seed, line in enumerate(lines):
        random = np.random.default_rng(seed)
        rows = random.integers(int(mean_us * 400), int(mean_us * 1600), count)
        rows[0] = 3_000_000
        chip.play(line, rows)
    return _errors(chip, count, lines)


def _rates(folder: Path) -> Iterator[tuple[str, str, str]]:
    for baud, rate in RATES.items():
        _played(folder, ("D2",), 1e6 / rate, rate // 2, baud=baud)
        yield f"edges a second without loss at {baud:,} baud", f"{rate:,}", f"{rate:,}"


def _exactness(folder: Path) -> Iterator[tuple[str, str, str]]:
    goal = "99 % within 0.5 µs, all within 1.5 µs"
    ordinary = [
        _played(folder, (line,), 80.0, EDGES)[line] for line in ("D2", "D3", "D4", "D9", "A0")
    ]
    yield "ordinary lines, one at a time", goal, _said(np.concatenate(ordinary))
    together = _played(folder, ("D2", "D4", "A0"), 400.0, EDGES // 4)
    yield "three of them at once", "–", _said(np.concatenate(list(together.values())))
    fine = _played(folder, ("D8",), 80.0, EDGES)["D8"]
    yield "the fine line", "all within 0.5 µs", f"all within {np.abs(fine).max():.2f} µs"
    big = _played(folder, ("D49", "D48"), 200.0, EDGES // 4, chip="atmega2560")
    worst = max(np.abs(row).max() for row in big.values())
    yield "both fine lines of the ATmega2560", "all within 0.5 µs", f"all within {worst:.2f} µs"


def _shortest(folder: Path) -> Iterator[tuple[str, str, str]]:
    """From which length on pulses are seen, and told with their width."""
    chip = Chip(folder)
    chip.listen("D2")
    tried = np.arange(0.5, 9.0, 0.25)
    rows = np.array([part for us in tried for part in (500_000, int((us + 0.3) * 1000))])
    rows[0] = 3_000_000
    chip.play("D2", rows)
    chip.until(lambda: chip.edges_us("D2").size >= 2 * tried.size - 2)
    chip.take(0.3)
    told, pins = chip.edges_us("D2"), chip.pins_us()["D2"][-2 * tried.size :]
    starts = told - np.median(told[::2][-10:] - pins[::2][-10:])
    width = np.diff(starts)[::2][-tried.size :]
    good = np.abs(width - np.diff(pins)[::2][-width.size :]) <= 1.0
    from_us = tried[tried.size - int(np.argmin(good[::-1]))] if not good.all() else tried[0]
    yield "pulses told with their width from", "6 µs", f"{from_us:.2f} µs"
    yield "pulses told as there from", "1 µs", f"{tried[-width.size]:.2f} µs"


def _memory(folder: Path) -> Iterator[tuple[str, str, str]]:
    chip = Chip(folder, ("D4=onewire:4", "D2=22:92,11.8"))
    chip.listen("D2", "D4", "A0")
    for _ in range(3):
        chip.ask("D4", (500, 500, *(6, 64) * 30))
        chip.take(0.4)
    lowest = int(chip.board.order("stack"))
    chip.close()
    _, elf = built()
    sizes = subprocess.run(["avr-size", elf], check=True, capture_output=True, text=True).stdout
    used = sum(int(size) for size in sizes.splitlines()[1].split()[1:3])
    begin = RAM_BEGINS
    yield "bytes of RAM to spare on the ATmega328P", "100", f"{lowest - begin - used}"
    yield "bytes of its flash", "32,256", f"{int(sizes.splitlines()[1].split()[0]):,}"


def main() -> int:
    """Measures, and writes the table."""
    rows: list[tuple[str, str, str]] = []
    with tempfile.TemporaryDirectory() as name:
        for part in (_rates, _exactness, _shortest, _memory):
            for row in part(Path(name)):
                print(f"{row[0]:<50} {row[1]:<40} {row[2]}", flush=True)
                rows.append(row)
    table = "| what | goal | measured |\n|---|---|---|\n"
    table += "".join(f"| {' | '.join(row)} |\n" for row in rows)
    text = README.read_text()
    README.write_text(
        re.sub(f"{BEGIN}.*{END}", lambda _: f"{BEGIN}{table}{END}", text, flags=re.DOTALL)
    )
    return 0


if __name__ == "__main__":
    sys.exit(main())
