"""Bytes copied from elsewhere, checked and explained for every type that they could be."""

from collections.abc import Iterator, Sequence

from pivet.errors import InputError
from pivet.families import FAMILIES
from pivet.judge.copied import Meaning, read_copied
from pivet.judge.verdict import Verdict
from pivet.judge.wording import count


def explain_bytes(text: str) -> list[Meaning]:
    """What copied bytes mean, for every type that they could be, the likeliest first.

    Args:
        text: as it was copied.

    Raises:
        InputError: no type has so many bytes, or the text is none.
    """
    wanted = "give " + ", ".join(known.copied for known in FAMILIES.values() if known.copied)
    copied = read_copied(text, wanted)
    found = [meaning for family in FAMILIES.values() for meaning in family.meanings(copied)]
    if not found:
        size = count(len(copied.data), "byte")
        raise InputError(f"no type has {size}" if copied.data else "there are no bytes", wanted)
    return sorted(found, key=lambda meaning: meaning.verdict)


def explained_lines(meanings: Sequence[Meaning]) -> Iterator[str]:
    """All meanings as plain text.

    Args:
        meanings: the likeliest first.
    """
    marks = {Verdict.SOUND: "●", Verdict.NEAR: "▲", Verdict.UNKNOWN: "○", Verdict.UNSOUND: "✗"}
    for found in meanings:
        yield f"{marks[found.verdict]} {found.title}: {found.says}"
        yield f"    {found.check.says}"
        for part, meaning in found.rows:
            yield f"    {part:<18} {meaning}"
