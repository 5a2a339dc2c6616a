"""The help pages, which are the user's guide in docs as well."""

from pathlib import Path

FOLDER = Path(__file__).parent
PAGES = {
    "stack": "Reading the stack",
    "live": "Listening",
    "readings": "Readings over time",
    "feeds": "Feeds",
    "margins": "Margins and Rehearsal",
    "printed": "Printed values",
    "findings": "What each finding means",
    "sheets": "Your own timing sheets",
    "keys": "Keys",
}


def page_text(name: str) -> str:
    """A help page as Markdown."""
    return (FOLDER / f"{name}.md").read_text(encoding="utf-8")
