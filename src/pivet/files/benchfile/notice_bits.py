"""Notices stand in a bench file by bit, and the file's own table tells what its bits mean.

The numbers are pinned and never used again; a file that says otherwise is believed.
"""

from collections.abc import Iterable, Mapping, Sequence
from functools import partial

import numpy as np
import numpy.typing as npt

from pivet.files.benchfile.checked import Bits, Name
from pivet.files.benchfile.reading import BenchReader
from pivet.files.benchfile.store import BenchFile

Moves = Mapping[int, int]
"""What becomes of each bit that means something else here; 0 where nothing does."""

CodeRow = tuple[str, int, str, int]
"""Family, bit, code and the verdict that it calls for."""


def moves_of(bench: BenchReader, families: Sequence[str], here: Mapping[str, int]) -> Moves:
    """How the notices of a family in a file become those of this program.

    Args:
        bench: the open bench file.
        families: the key of the family, and former ones.
        here: the family's bits by code.

    Raises:
        InputError: the file cannot be read.
    """
    among = ", ".join("?" * len(families))
    sql = f"SELECT bit, code FROM code WHERE family IN ({among})"
    there = bench.rows(sql, families, tuple[Bits, Name])
    used = set(here.values())
    moves = {
        bit: here.get(code, 0 if bit in used else bit)
        for bit, code in there
        if bit.bit_count() == 1
    }
    return {bit: new for bit, new in moves.items() if bit != new}


def moved(notices: npt.NDArray[np.int64], moves: Moves) -> npt.NDArray[np.int64]:
    """Notices of a file as they are here, int64 (n,).

    Args:
        notices: bits by the numbers of the file, int64 (n,).
        moves: the bit there, and the bit here.
    """
    if not moves:
        return notices
    found = notices & ~np.int64(sum(moves))
    for bit, new in moves.items():
        found |= np.where(notices & np.int64(bit), np.int64(new), 0)
    return found


def one_moved(moves: Moves, bits: int) -> int:
    """The same for a single exchange.

    Args:
        moves: the bit there, and the bit here.
        bits: notices by the numbers of the file.
    """
    return int(moved(np.array([bits], dtype=np.int64), moves)[0]) if moves else bits


def renumber(bench: BenchFile, codes: Iterable[CodeRow]) -> None:
    """Brings the notices of a file, and its table, to the numbers of this program.

    Args:
        bench: a file open for writing.
        codes: the numbers by which it keeps its notices.

    Raises:
        InputError: the file cannot be read.
        OutputError: it cannot be written.
    """
    of_family: dict[str, list[CodeRow]] = {}
    for row in codes:
        of_family.setdefault(row[0], []).append(row)
    for family, rows in of_family.items():
        moves = moves_of(bench, (family,), {code: bit for _, bit, code, _ in rows})
        if moves:
            bench.change_notices(family, partial(one_moved, moves))
            bench.run("DELETE FROM code WHERE family = ? AND bit = ?", [(family, b) for b in moves])
        bench.run("INSERT OR REPLACE INTO code VALUES (?, ?, ?, ?)", rows)
