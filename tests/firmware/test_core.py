"""The portable core on this computer, against the link as Pivet speaks it."""

import ctypes
import subprocess
import tempfile
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from pivet.signal import varint
from pivet.sources.link import messages as msg
from pivet.sources.link.frames import FrameReader, frame_bytes
from pivet.sources.link.host import unpacked_steps
from pivet.standin.board import FIRMWARE
from tests.base import PivetTest

HERE = Path(__file__).parent / "core"
GCC = (
    *("gcc", "-shared", "-fPIC", "-O1", "-std=gnu99", "-Wall", "-Wextra", "-Werror"),
    *("-fsanitize=undefined", "-fsanitize-undefined-trap-on-error"),
)
MOST_STEPS, MOST_BODY, MOST_DRIVEN = 80, 100, 8192
BAD_CONTENT, TOO_LONG = 2, 5

steps = st.lists(
    st.integers(1, 200)
    | st.integers(1, 520_000)
    | st.tuples(st.integers(0, 10), st.integers(0, 3000)),
    max_size=20,
)


class CoreTest(PivetTest):
    """Has the core as a library."""

    core: ctypes.CDLL

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        made = Path(folder.name) / "core.so"
        sources = [FIRMWARE / "core" / "link.c", FIRMWARE / "core" / "steps.c", HERE / "board.c"]
        subprocess.run(
            [*GCC, f"-I{HERE}", f"-I{FIRMWARE / 'core'}", "-o", str(made), *map(str, sources)],
            check=True,
        )
        cls.core = ctypes.CDLL(str(made))
        cls.core.steps_next.restype = ctypes.c_uint32
        cls.core.steps_begin.restype = cls.core.link_take.restype = ctypes.c_uint8


class Steps(CoreTest):
    """Asks, read as they are needed."""

    def read(self, text: bytes) -> list[int] | int:
        """The steps, or the reason why they are refused."""
        why: int = self.core.steps_begin(text, len(text))
        if why:
            return why
        found = []
        while step := self.core.steps_next():
            found.append(step)
            self.assertLessEqual(len(found), MOST_DRIVEN)
        return found

    @given(steps)
    def test_as_the_host_means_them(self, rows: list[int | tuple[int, int]]) -> None:
        """Steps and runs come out as a host packs them; what it may not say is refused."""
        text = b""
        for row in rows:
            text += varint.packed((0, *row) if isinstance(row, tuple) else (row,))
        meant = unpacked_steps(text, MOST_DRIVEN)
        runs = [row for row in rows if isinstance(row, tuple)]
        if len(text) > MOST_STEPS:
            self.assertEqual(TOO_LONG, self.read(text))
        elif meant is None or any(0 in run for run in runs):
            self.assertIn(self.read(text), (BAD_CONTENT, TOO_LONG))
        else:
            self.assertEqual(meant, self.read(text))

    @given(st.binary(max_size=90))
    def test_any_bytes(self, text: bytes) -> None:
        """Whatever arrives is bounded."""
        found = self.read(text)
        if isinstance(found, list):
            self.assertEqual(unpacked_steps(text, MOST_DRIVEN), found)


class Frames(CoreTest):
    """Frames, out and in."""

    def send(self, kind: int, payload: bytes) -> bytes:
        """What goes out for a body."""
        count = ctypes.c_int.in_dll(self.core, "sent_count")
        count.value = 0
        body = (ctypes.c_uint8 * (len(payload) + 4))(kind, 0, *payload)
        self.core.link_send(body, len(payload) + 2)
        self.core.pump_all()
        sent = (ctypes.c_uint8 * 4096).in_dll(self.core, "sent")
        return bytes(sent[: count.value])

    def take(self, data: bytes) -> list[bytes]:
        """Bodies without their CRC that are found in some bytes."""
        body = (ctypes.c_uint8 * MOST_BODY).in_dll(self.core, "link_body")
        sizes = ((byte, self.core.link_take(byte)) for byte in data)
        return [bytes(body[:size]) for _, size in sizes if size]

    @given(st.integers(0, 255), st.binary(max_size=90))
    def test_out(self, kind: int, payload: bytes) -> None:
        """A host reads them."""
        (frame,) = FrameReader().feed(self.send(kind, payload))
        self.assertEqual((kind, payload), (frame.kind, frame.payload))

    @given(st.lists(st.tuples(st.integers(0, 255), st.binary(max_size=96)), max_size=4))
    def test_in(self, rows: list[tuple[int, bytes]]) -> None:
        """A host's are read; noise and damage between them is passed over."""
        stream = b"".join(
            frame_bytes(kind, number, payload) + b"\x07noise\0"
            for number, (kind, payload) in enumerate(rows)
        )
        bodies = [bytes((kind, number)) + row for number, (kind, row) in enumerate(rows)]
        self.assertEqual([body for body in bodies if len(body) + 2 <= MOST_BODY], self.take(stream))

    @given(st.binary(min_size=1, max_size=60), st.data())
    def test_damage_is_noticed(self, payload: bytes, data: st.DataObject) -> None:
        """One byte that is wrong never gives a body with another content."""
        good = frame_bytes(msg.Ask.KIND, 3, payload)
        at = data.draw(st.integers(0, len(good) - 2))
        wrong = bytes([*good[:at], good[at] ^ data.draw(st.integers(1, 255)), *good[at + 1 :]])
        meant = bytes((msg.Ask.KIND, 3)) + payload
        self.assertEqual([], [body for body in self.take(wrong + b"\0") if body != meant])
