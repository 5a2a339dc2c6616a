"""The report as one HTML file that needs nothing from elsewhere."""

from collections.abc import Sequence
from functools import cache
from importlib.resources import files
from itertools import islice

import jinja2
from markupsafe import Markup

from pivet import __version__
from pivet.insight.drawn.picture import Picture
from pivet.insight.drawn.svg import ON_PAPER, svg_text
from pivet.insight.outcomes import Outcome
from pivet.insight.report.gather import Source, WireReport
from pivet.insight.tell import OUTCOMES, constant_words, margin_words
from pivet.judge.verdict import Verdict
from pivet.judge.wording import limits_of, us
from pivet.progress import Progress, silent

PIECES = 20
"""So many pieces of the text are made between two looks at whether it goes on."""


def report_html(
    sources: Sequence[Source],
    wires: Sequence[WireReport],
    title: str,
    progress: Progress = silent,
) -> str:
    """The whole file; the same of the same.

    Args:
        sources: files that it is of.
        wires: what is told of each wire.
        title: above all.
        progress: called now and then with 1.0: how much is left is not known.

    Raises:
        Cancelled: ``progress`` raised it.
    """
    template = _template()
    pieces = template.generate(
        title=title, sources=sources, wires=wires, version=__version__, colours=ON_PAPER
    )
    found = list[str]()
    while some := list(islice(pieces, PIECES)):
        progress(1.0)
        found += some
    return "".join(found)


@cache
def _template() -> jinja2.Template:
    text = (files("pivet.insight.report") / "report.html.j2").read_text(encoding="utf-8")
    room = jinja2.Environment(
        autoescape=True, trim_blocks=True, lstrip_blocks=True, undefined=jinja2.StrictUndefined
    )
    room.filters |= {
        "us": us,
        "limits": limits_of,
        "margin": margin_words,
        "constant": constant_words,
        "svg": _svg,
        "percent": lambda share: f"{share:.1%}",
        "thousands": lambda number: f"{number:,}",
    }
    room.globals |= {"Verdict": Verdict, "Outcome": Outcome, "outcomes": OUTCOMES}
    return room.from_string(text)


def _svg(picture: Picture) -> Markup:
    # Its texts were escaped when it was written.
    return Markup(svg_text(picture))
