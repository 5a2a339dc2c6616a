"""Hostile captures, logs of references, files of roles, and sheets."""

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from pivet.captures.capture import capture_of
from pivet.captures.text import capture_lines
from pivet.errors import PivetError
from pivet.files.captures import read_capture
from pivet.files.reference_csv import read_reference
from pivet.files.roles_json import read_roles
from pivet.sheets.load import parse_sheet, sheet_text
from tests.base import CAPTURES
from tests.fuzz.base import HOSTILE_NUMBERS, HOSTILE_TEXTS, Fuzzer


def _some(rng: np.random.Generator, values: Any) -> Any:
    return values[int(rng.integers(0, len(values)))]


class HostileVcd(Fuzzer):
    """Declarations and changes by the grammar of IEEE 1364, with hostile words."""

    name = "VCD"
    few = 36
    SUFFIX = ".vcd"

    def case(self, rng: np.random.Generator) -> None:
        """Reads and decodes it."""
        path = self.folder / f"case{self.SUFFIX}"
        path.write_bytes(self.content(rng))
        try:
            trace = read_capture(path)
            for line in trace.lines:
                times = np.concatenate(([trace.start_ns - 1], line.edges_ns, [trace.end_ns + 1]))
                assert (np.diff(times) > 0).all(), "edges do not rise, or lie beyond the capture"
            capture = capture_of(path, trace)
            list(capture_lines(capture))
            self.taken += 1
        except PivetError as error:
            self.refuse(error)

    def content(self, rng: np.random.Generator) -> bytes:
        """A file."""
        if rng.random() < 0.4:
            return self.changed(_some(rng, sorted(CAPTURES.glob("*.vcd"))).read_bytes()[:9000], rng)
        words = ["$timescale", _some(rng, ["1 ns", "10us", "100 s", "1 fs", "3 ns", "x"]), "$end"]
        codes = ["!", '"', "ab", "a" * 12, "\x7f", "é"]
        for _ in range(int(rng.integers(0, 300))):
            words += self.declaration(rng, codes)
        words += ["$enddefinitions", "$end", *_some(rng, [["$dumpvars"], ["#0"], []])]
        time = 0
        for _ in range(int(rng.integers(0, 400))):
            time += int(_some(rng, [1, 50, 10**6, 10**12, 2**62, -5]))
            words.append(_some(rng, [f"#{time}", "#", "#1e5", f"#{2**70}"]) if rng.random() < 0.5
                         else _some(rng, "01xzZXbrB$") + _some(rng, codes))  # fmt: skip
        between: str = _some(rng, ["\n", "\r\n", "\r", " "])
        return between.join(words).encode("utf-8", "replace")

    def declaration(self, rng: np.random.Generator, codes: list[str]) -> list[str]:
        """A scope, a signal, something else."""
        name = _some(rng, [*HOSTILE_TEXTS, "data", "dq"]).replace("\ud800", "?")
        kind = rng.random()
        if kind < 0.4:
            return ["$scope", "module", name, "$end"]
        if kind < 0.5:
            return ["$upscope", "$end"]
        size = str(_some(rng, [1, 1, 1, 0, 8, 10**20, "x"]))
        what = _some(rng, ["wire", "reg", "real", "event", ""])
        return ["$var", what, size, _some(rng, codes), name, *(["$end"] * int(rng.random() < 0.95))]

    @staticmethod
    def changed(content: bytes, rng: np.random.Generator) -> bytes:
        """A real file with some bytes changed, doubled, cut."""
        data = bytearray(content)
        for _ in range(int(rng.integers(1, 8))):
            at, size = int(rng.integers(0, len(data))), int(rng.integers(1, 60))
            kind = rng.random()
            if kind < 0.4:
                data[at : at + 1] = rng.bytes(1)
            elif kind < 0.7:
                del data[at : at + size]
            else:
                data[at:at] = data[at : at + size]
            data = data or bytearray(b"#")
        return bytes(data)


class HostileCsv(HostileVcd):
    """Tables of edges with hostile cells."""

    name = "edge CSV"
    few = 24
    SUFFIX = ".csv"

    def content(self, rng: np.random.Generator) -> bytes:
        """A file."""
        if rng.random() < 0.3:
            return self.changed((CAPTURES / "csv_edges_dht22.csv").read_bytes(), rng)
        mark, end = _some(rng, ",;\t"), _some(rng, ["\n", "\r\n", "\r"])
        width, time = int(rng.integers(1, 6)), 0.0
        rows = [["time_s", *(_some(rng, HOSTILE_TEXTS) for _ in range(width))]]
        for _ in range(int(rng.integers(0, 300))):
            time += 10 ** rng.uniform(-7, 3)
            cells = [f"{time:.9f}", *(_some(rng, "01") for _ in range(width))]
            if rng.random() < 0.02:
                cells[int(rng.integers(0, len(cells)))] = str(_some(rng, self.cells()))
            rows.append(cells)
        text: str = end.join(mark.join(row) for row in rows) + end
        return text.encode("utf-8", "replace")

    @staticmethod
    def cells() -> tuple[Any, ...]:
        """What may stand in a cell."""
        return (
            *HOSTILE_TEXTS, *HOSTILE_NUMBERS, '"', '"a', "1e300", "1e-300", "-1e9", "nan", "inf",
            "x" * 200_000, "\n", "1,5", "0x10", "١٢",
        )  # fmt: skip


class HostileReference(Fuzzer):
    """Logs of other instruments."""

    name = "reference CSV"
    few = 32
    TIMES = (
        "2026-11-23T02:30:00", "9999-12-31T23:59:59", "0001-01-01T00:00:00+14:00",
        "23.11.2026 2:30",
        "11/23/2026 02:30:00 PM", "1795000000", "1e400", "2026-11-23T02:30:00.123456789Z", "",
        "31.02.2026 10:00", "1969-12-31T23:59:59", "2026-W48-1T00:00",
    )  # fmt: skip

    def case(self, rng: np.random.Generator) -> None:
        """Reads it."""
        mark, end = _some(rng, ",;\t"), _some(rng, ["\n", "\r\n", "\r", "\n\r"])
        head = ["time", _some(rng, ["humidity_%RH", "temp °F", "x", "", '"']), "more"]
        rows, usual = [head], _some(rng, self.TIMES)
        for _ in range(int(rng.integers(0, 80))):
            time = usual if rng.random() < 0.9 else _some(rng, self.TIMES)
            value = "12.5" if rng.random() < 0.9 else str(_some(rng, HostileCsv.cells()))
            rows.append([time, value, *(["x"] * int(rng.integers(0, 3)))])
        path = self.folder / "reference.csv"
        text = end.join(mark.join(row) for row in rows)
        path.write_bytes(text.encode(_some(rng, ["utf-8", "utf-16", "latin-1"]), "replace"))
        try:
            for column in read_reference(path):
                assert (np.diff(column.times_ns) >= 0).all()
            self.taken += 1
        except PivetError as error:
            self.refuse(error)


def _nested(rng: np.random.Generator, depth: int = 0) -> Any:
    """Any JSON."""
    kind = rng.random()
    if depth > 3 or kind < 0.5:
        return _some(rng, [*HOSTILE_NUMBERS, *HOSTILE_TEXTS[:-3], None, True, 0.5, [], {}])
    if kind < 0.75:
        return [_nested(rng, depth + 1) for _ in range(int(rng.integers(0, 4)))]
    keys = ["pivet_roles", "roles", "name", "codes", "x"]
    return {_some(rng, keys): _nested(rng, depth + 1) for _ in range(int(rng.integers(0, 4)))}


class HostileRoles(Fuzzer):
    """Files of roles."""

    name = "roles.json"
    few = 80

    def case(self, rng: np.random.Generator) -> None:
        """Reads it."""
        data: Any = {
            "pivet_roles": 1,
            "roles": [{"name": "core", "codes": ["28-0000051b2c7d"]}, {"name": "x", "codes": []}],
        }
        place = _some(rng, [("pivet_roles",), ("roles",), ("roles", 0), ("roles", 0, "name"),
                            ("roles", 0, "codes"), ("roles", 0, "codes", 0), ()])  # fmt: skip
        if not place:
            data = _nested(rng)
        else:
            inner = data
            for key in place[:-1]:
                inner = inner[key]
            inner[place[-1]] = _nested(rng)
        text = json.dumps(data)
        if rng.random() < 0.2:
            text = _some(rng, ["[" * 10**5, '{"pivet_roles":' * 10**4, "nul", text[:-5], text * 2])
        path = self.folder / "roles.json"
        path.write_text(text, encoding="utf-8", errors="replace")
        try:
            for name, codes in read_roles(path):
                assert name and codes
            self.taken += 1
        except PivetError as error:
            self.refuse(error)


class HostileSheet(Fuzzer):
    """Timing sheets in TOML, as they stand in bench files."""

    name = "sheet"
    few = 14

    def case(self, rng: np.random.Generator) -> None:
        """Reads it."""
        text = sheet_text(_some(rng, ["dht22", "onewire", "hc-sr04"]))
        for _ in range(int(rng.integers(1, 4))):
            lines = text.split("\n")
            at = int(rng.integers(0, len(lines)))
            lines[at] = _some(rng, self.lines(lines[at]))
            text = "\n".join(lines)
        try:
            parse_sheet(text, "case.toml")
            self.taken += 1
        except PivetError as error:
            self.refuse(error)

    @staticmethod
    def lines(line: str) -> tuple[str, ...]:
        """What may stand in place of a line."""
        key = line.partition("=")[0].strip() or "x"
        values = (
            "nan",
            "-inf",
            "1e300",
            "[]",
            "{}",
            '""',
            "true",
            "[" * 2000,
            "1979-05-27",
            "[1, 2]",
        )
        return ("", "[", "[[window]]", "a." * 3000 + "b = 1", *(f"{key} = {row}" for row in values))


FUZZERS: tuple[Callable[[Path], Fuzzer], ...] = (
    HostileVcd,
    HostileCsv,
    HostileReference,
    HostileRoles,
    HostileSheet,
)
