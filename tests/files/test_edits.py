"""What is read of small captures, line by line: of those in texts.toml, each of which shows
something, and of some with one word missing, twice, or another.
"""

import re
import tomllib
from collections.abc import Iterator
from itertools import groupby
from pathlib import Path

from pivet.errors import PivetError
from pivet.files.captures import read_capture
from pivet.files.reference_csv import read_reference
from pivet.files.roles_json import read_roles
from tests.base import PivetTest
from tests.pages import Page

PAGE = Page(__file__)

VCD = """$date today $end $timescale 10 ns $end
$scope module bench $end
$var wire 1 ! data $end $var reg 8 " bus [7:0] $end $var wire 1 #a clock $end
$upscope $end $enddefinitions $end
#5 $dumpvars 1! b0000x000 " 0#a $end
#105 0! 1#a
#2000000000000 1! $comment odd $end r1.5 "
#2000000000105 x! z#a
"""

CSV = """# a logger; made up
Time [ms];data;clock
-0,5;1;low
0,25;0;high
1e2;true;0
100,000001;1;1
"""

SAMPLES = "t_us,a\n" + "".join(f"{at}.0,{at // 3 % 2}\n" for at in range(5))

LOG = """Date;Time;RH %;T [°C];note
23.11.2026;02:30:00;91,5;-1,25;dry
23.11.2026;02:31:30;;11.5;
24.11.2026;14:05:00;1.000,5;+12;fan
"""

TEXTS = Path(__file__).with_name("texts.toml")
WORDS = ("9", "$end", "-", "x", '"', "1e400", "²", "!")
BASES = {"vcd": VCD, "csv": CSV, "samples": SAMPLES, "log": LOG}
REST = {
    "samples": "".join(f"{at}.0,{at // 3 % 2}\n" for at in range(5, 24)),
    "log": "".join(f"25.11.2026;03:{at}:00;9{at % 7},5;1{at % 5}.5;\n" for at in range(10, 25)),
}
"""What follows, and stays as it is."""

PARTS = {"vcd": r"\s+", "csv": r"[;\s]+", "samples": r"[,\n]", "log": r"[;\n]"}


def edits(name: str) -> Iterator[tuple[str, str]]:
    """What was done, and the text; first the text as it is."""
    parts = re.split(f"({PARTS[name]})", BASES[name])
    yield "as it is", BASES[name]
    for at in range(0, len(parts) - 1, 2):
        word, before, behind = parts[at], parts[:at], parts[at + 1 :]
        other = WORDS[at // 2 % len(WORDS)]
        yield f"without {word!r}", "".join((*before, *behind[1:]))
        yield f"twice {word!r}", "".join((*before, word, behind[0], word, *behind))
        yield f"{other!r} for {word!r}", "".join((*before, other, *behind))
        yield f"cut off in {word!r}", "".join((*before, word[: len(word) // 2]))


def read(name: str, path: Path) -> str:
    """What comes of it."""
    try:
        if name == "roles":
            return f"{read_roles(path)}"
        if name in ("log", "logs"):
            rows = [
                f"{row.name}, {row.quantity}: {row.times_ns[:4].tolist()} {row.values[:4].tolist()}"
                f" of {row.values.size}"
                for row in read_reference(path)
            ]
            return "; ".join(rows)
        found = read_capture(path)
    except PivetError as error:
        return f"{error}".replace(str(path.parent), "HERE")
    lines = [
        f"{' or '.join((row.name, *row.aliases))} {row.initial.name} {row.edges_ns.tolist()}"
        f"{''.join(f' ({note})' for note in row.notes)}"
        for row in found.lines
    ]
    span = f"{found.start_ns} to {found.end_ns} in {found.resolution_ns}"
    return f"{span}: {'; '.join(lines)} ({'; '.join(found.notes)})"


class Edits(PivetTest):
    """Against the page that was last looked through."""

    def lines(self) -> Iterator[str]:
        """The page: what was done, then what comes of it."""
        path = self.folder / "made.txt"
        for name, kinds in tomllib.loads(TEXTS.read_text(encoding="utf-8")).items():
            for row in kinds:
                yield f"# {row['says']}"
                for text in row["texts"]:
                    path.write_bytes(text.replace("…", "9" * 200_000).encode())
                    yield f"  {read(name, path)}"
        for name in BASES:
            told = []
            for what, text in edits(name):
                path.write_text(text + REST.get(name, ""), encoding="utf-8")
                told.append((read(name, path), what))
            for came, rows in groupby(told, key=lambda row: row[0]):
                yield f"{name} {', '.join(what for _, what in rows)}:"
                yield f"  {came}"

    def test_line_by_line(self) -> None:
        self.in_zone("UTC")
        PAGE.same(self, self.lines())
