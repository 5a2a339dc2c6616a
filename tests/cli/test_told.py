"""What the command line prints, word by word: a session with made-up captures."""

import contextlib
import os
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path
from unittest import mock

from pivet.person.own_sheets import use_folder
from tests.base import PivetTest, older_bench
from tests.cli.running import pivet
from tests.pages import Page

PAGE = Page(__file__)
SHOWN = 40
"""So many lines of what a command prints."""

TYPED = """
sheet copy dht22 pivet/sheets/mine.toml
--help
standin --help
standin off.vcd --sensor dht22 --count 4 --fault pulse-outside@2 --clock 4 --jitter 1.5 --rise 2
standin wash.csv --sensor dht11 --humidity 71 --temperature 14 --count 3 --step 500 --seed 9 -q
standin dq.vcd --sensor onewire --devices 2 --resolution 10 --count 3 --interval 3
standin fast.vcd --sensor onewire --devices 1 --overdrive --count 2 --fault crc-wrong@1
standin vat.vcd --sensor hc-sr04 --distance 0.75 --temperature 11 --count 6 --fault soft-target@3
standin --sensor ping3 pin.vcd --count 3 --interval 0.08
standin shelf.vcd --sensor dht22 --count 1
standin plain.vcd --sensor dht22 --fault no-answer@2
standin x.vcd --sensor dht22 --interval 0.001
standin x.vcd --sensor dht22 --interval 0.006184
standin x.vcd --sensor dht22 --fault melted
standin x.vcd --sensor onewire --interval 0.5
standin x.vcd --sensor hc-sr04 --interval 0.001
standin x.vcd --sensor onewire --temperature 200
decode shelf.vcd
decode off.vcd
decode -q plain.vcd
decode wash.csv dq.vcd --all
decode dq.vcd --json
decode vat.vcd --air-temperature 11 --json
decode vat.vcd --timeout 30 --farthest 0.9
decode fast.vcd --strict
decode plain.vcd --sensor dht11 --wire data
decode plain.vcd --wire nobody
decode pin.vcd --wire trigger,echo
decode nowhere.vcd plain.vcd -q
readings plain.vcd
readings plain.vcd --derived --unit F --from 3s --to 8s
readings plain.vcd wash.csv --format long
readings plain.vcd --from 02:30
readings plain.vcd wash.csv -o both.xlsx
readings vat.vcd -o vat.csv
readings vat.vcd -o vat.csv
readings dq.vcd --format jsonl
stats plain.vcd wash.csv
stats plain.vcd --csv --derived
stats vat.vcd --json --from 0.1s
convert plain.vcd plain.csv
convert wash.csv dq.vcd out --to vcd
decode plain.csv -q
explain 02 8C 01 5F EE
explain 50 05 4B 46 7F FF 0C 10 1C
explain 28-0000051b2c7d
explain zz
roles list
roles name 28-0000051b2c7d wheel
roles list
sheet list
sheet show ping3
sheet copy dht22 mine.toml
sheet check mine.toml
sheet copy dht22 mine.toml
sheet list
standin own.vcd --sensor mine --count 2
decode own.vcd --sensor mine
decode --help
readings --help
bench info plain.vcd
bench info version1.pivet
stats version1.pivet
readings version1.pivet --wire shelf_A --to 10s
bench rescue nowhere.pivet whole.pivet
"""


def lines() -> Iterator[str]:
    """The page."""
    with contextlib.ExitStack() as stack:
        folder = stack.enter_context(tempfile.TemporaryDirectory())
        stack.enter_context(contextlib.chdir(folder))
        own = {f"XDG_{name}_HOME": folder for name in ("DATA", "CONFIG", "STATE")}
        stack.callback(time.tzset)
        stack.enter_context(mock.patch.dict(os.environ, own | {"TZ": "UTC"}))
        time.tzset()
        (Path(folder) / "pivet" / "sheets").mkdir(parents=True)
        stack.callback(use_folder, Path(folder) / "none")
        older_bench(1, Path(folder))
        for typed in TYPED.strip().splitlines():
            with mock.patch("pivet.cli.choosing._taken", []):
                done = pivet(*typed.split())
            yield f"$ pivet {typed}   [{done.exit_code}]"
            said = [*done.stdout.splitlines(), *(f"! {line}" for line in done.stderr.splitlines())]
            yield from (line.replace(folder, "HERE").rstrip() for line in said[:SHOWN])


class Told(PivetTest):
    """Against the page that was last looked through."""

    def test_word_by_word(self) -> None:
        """``python -m tests.cli.test_told`` writes it anew."""
        PAGE.same(self, lines())


if __name__ == "__main__":
    PAGE.write(lines())
