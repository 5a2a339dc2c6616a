"""The declarations at the head of a VCD file (IEEE 1364, clause 18)."""

import re
from collections.abc import Iterator

from pivet.errors import InputError
from pivet.frozen import FrozenValue

UNITS_FS = {
    "s": 10**15,
    "ms": 10**12,
    "us": 10**9,
    "ns": 10**6,
    "ps": 10**3,
    "fs": 1,
}
END = b"$enddefinitions"
NOT_LEVELS = frozenset({"event", "real", "realtime", "shortreal", "string", "parameter"})
DEFAULT_FS = UNITS_FS["ns"]
MOST_SCOPES = 200
MOST_NAME = 2000
MOST_WORDS = 1000
"""Of a longer declaration only this many words are looked at."""

OWN_COMMENT = "pivet resolution_ns {} zero_ns {}"
"""A comment of this form carries what a time scale cannot: the resolution, and the time of
stamp 0, which may lie before the capture's own zero.  ``zero_ns`` may be left out."""

OWN_COMMENT_FORM = re.compile(r"pivet resolution_ns (\d{1,12})(?: zero_ns (-?\d{1,18}))?")


class Signal(FrozenValue):
    """A one-bit signal.

    Attributes:
        code: identifier code, as in the value changes.
        names: dotted names, the one nearest to the top first.
    """

    code: bytes
    names: tuple[str, ...]


class Header(FrozenValue):
    """What the declarations say.

    Attributes:
        step_fs: one step of the time stamps, fs.
        signals: the one-bit signals.
        other_codes: identifier codes of vectors, reals and the like.
        resolution_ns: the capture's resolution if a comment tells it, ns; else 0.
        zero_ns: time of stamp 0 if a comment tells it, ns; else 0.
        body: offset of the first byte after the declarations.
        notes: what had to be assumed.
    """

    step_fs: int
    signals: tuple[Signal, ...]
    other_codes: frozenset[bytes]
    resolution_ns: int
    zero_ns: int
    body: int
    notes: tuple[str, ...]


def read_header(content: bytes, where: str) -> Header:
    """Reads the declarations.

    Args:
        content: the whole file.
        where: its name, for messages.

    Raises:
        InputError: it is no VCD file, is cut off in its head, or declares no one-bit signal.
    """
    end = content.find(END)
    if end < 0:
        looks = content.lstrip()[:1] == b"$"
        todo = "record it again: it was cut off" if looks else "choose a VCD or a CSV capture"
        raise InputError(f"{where} has no end of declarations, so it is no whole VCD file", todo)
    closing = content.find(b"$end", end + len(END))
    body = closing + len(b"$end") if closing >= 0 else len(content)
    declared = _Declared(where)
    for keyword, words in _declarations(content, end):
        declared.take(keyword, words)
    return declared.header(body)


def _declarations(content: bytes, end: int) -> Iterator[tuple[str, list[str]]]:
    """Each declaration by its first word, word by word: a head may be most of a file."""
    keyword, words = "", list[str]()
    for found in re.finditer(rb"\S+", memoryview(content)[:end]):
        word = found[0].decode("utf-8", "replace")
        if not keyword:
            keyword = word
        elif word == "$end":
            yield keyword, words
            keyword, words = "", []
        elif len(words) < MOST_WORDS:
            words.append(word)
    if keyword:
        yield keyword, words


class _Declared:
    """Collects declarations in their order."""

    def __init__(self, where: str) -> None:
        self._where = where
        self._scopes: list[str] = []
        self._names: dict[str, list[str]] = {}
        self._others: set[str] = set()
        self._step_fs = 0
        self._resolution_ns = 0
        self._zero_ns = 0

    def take(self, keyword: str, words: list[str]) -> None:
        """Takes one declaration; those that say nothing of signals or time are passed over.

        Raises:
            InputError: the declaration makes no sense, or scopes are nested too deeply.
        """
        if keyword == "$scope":
            self._scopes.append(words[1] if len(words) > 1 else "")
            if len(self._scopes) > MOST_SCOPES:
                raise InputError(
                    f"{self._where} nests scopes deeper than {MOST_SCOPES}",
                    "export fewer levels of the design",
                )
        elif keyword == "$upscope":
            if self._scopes:
                self._scopes.pop()
        elif keyword == "$timescale":
            self._step_fs = _step_fs("".join(words), self._where)
        elif keyword == "$var":
            self._take_signal(words)
        elif keyword == "$comment":
            found = OWN_COMMENT_FORM.fullmatch(" ".join(words))
            if found:
                self._resolution_ns, self._zero_ns = int(found[1]), int(found[2] or 0)

    def _take_signal(self, words: list[str]) -> None:
        if len(words) < 4:
            said = " ".join(words)
            raise InputError(
                f"{self._where} has an incomplete $var declaration ({said!r})",
                "export the capture again",
            )
        kind, size, code, *name = words
        if size != "1" or kind in NOT_LEVELS:
            self._others.add(code)
            return
        full = ".".join((*self._scopes, "".join(name)))
        if len(full) > MOST_NAME:
            raise InputError(
                f"{self._where} has a signal with a name of over {MOST_NAME} characters",
                "export it with shorter names",
            )
        self._names.setdefault(code, []).append(full)

    def header(self, body: int) -> Header:
        """All that was declared.

        Raises:
            InputError: no one-bit signal was declared.
        """
        if not self._names:
            raise InputError(
                f"{self._where} declares no one-bit signal",
                "export the wire as a signal of its own",
            )
        notes = () if self._step_fs else ("it names no time scale: 1 ns was assumed",)
        signals = tuple(
            Signal(code.encode(), tuple(sorted(names, key=lambda name: name.count("."))))
            for code, names in self._names.items()
        )
        return Header(
            self._step_fs or DEFAULT_FS,
            signals,
            frozenset(code.encode() for code in self._others),
            self._resolution_ns,
            self._zero_ns,
            body,
            notes,
        )


def _step_fs(text: str, where: str) -> int:
    found = re.fullmatch(r"(1|10|100)([munpf]?s)", text)
    if not found:
        raise InputError(
            f"{where} has the time scale {text[:40]!r}, which is none",
            "write it as 1, 10 or 100 and s, ms, us, ns, ps or fs",
        )
    return int(found[1]) * UNITS_FS[found[2]]
