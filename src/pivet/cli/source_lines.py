"""What a source is, as plain text."""

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
        )
        if able
    ] or ["only listens"]
    level = "" if row.level is None else f", {row.level.name.lower()} now"
    return f"{' and '.join(can)}{level}" + (f" ({row.note})" if row.note else "")
