"""What a source is, as plain text."""

from pivet.judge.wording import us
from pivet.sources.source import About, LineInfo


def about_lines(about: About) -> list[str]:
    """What a source is, for people."""
    rows = [about.name, *(f"  {word:<12} {what}" for word, what in about.facts), "  lines"]
    return rows + [f"    {line.name:<24} {_can(line)}" for line in about.lines]


def _can(row: LineInfo) -> str:
    can = [
        word
        for word, able in (
            ("pulls low", row.can_pull_low),
            ("drives high", row.can_drive_high),
            ("has a pull-up", row.can_pull_up),
        )
        if able
    ] or ["only listens"]
    level = "" if row.level is None else f", {row.level.name.lower()} now"
    exact = f", {exact_words(row)}" if row.exact is not None else ""
    return f"{', '.join(can)}{level}{exact}" + (f" ({row.note})" if row.note else "")


def exact_words(row: LineInfo) -> str:
    """How exact the stamps of a line are, for people; empty where nobody said it."""
    if row.exact is None:
        return ""
    wrong, shortest = us(row.exact.wrong_ns / 1000), us(row.exact.shortest_ns / 1000)
    seen = us(row.exact.seen_ns / 1000)
    more = f", from {seen} on as there" if row.exact.seen_ns < row.exact.shortest_ns else ""
    return f"widths ± {wrong} from {shortest} on{more}"
