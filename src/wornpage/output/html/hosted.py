"""A page in HTML with its results in place: all that its author wrote stays, letter by letter."""

from __future__ import annotations

import re
from importlib.resources import files

from wornpage.output.hosted import results_of
from wornpage.output.html.live import live_script
from wornpage.output.html.mathfont import math_style
from wornpage.output.html.writer import HtmlWriter
from wornpage.output.kind import Job, Written
from wornpage.source.hosts import html
from wornpage.source.hosts.hosted import Literal
from wornpage.tree import nodes as n
from wornpage.tree.files import as_utf8

_HEAD_ENDS = re.compile(r"</head\s*>", re.IGNORECASE)
BODY_ENDS = re.compile(r"</body\s*>(?!.*</body)", re.IGNORECASE | re.DOTALL)


def write_hosted(page: n.Composed, job: Job) -> Written:
    """The page with what its chunks show and what its values are."""
    writer = HtmlWriter(page.terms, titled=False, name=job.name)

    def write(block: n.Block) -> str:
        if isinstance(block, n.Paragraph):
            return writer.inlines(block.children)
        writer.footnotes = []
        made, notes = writer.block(block), writer.notes()
        made += f'\n<ol class="notes">{notes}</ol>' if notes else ""
        return f'<div class="worn-result">\n{made}\n</div>' if made else ""

    results = results_of(page, write)
    pieces = html.read(job.source, job.name).pieces
    text = "".join(piece.text if isinstance(piece, Literal) else results.get(piece, "") for piece in pieces)
    made = "".join(results.values())
    style = (files(__package__) / "hosted.css").read_text(encoding="utf-8").strip()
    text = _with(text, f"<style>{style}{math_style(made)}</style>\n", _HEAD_ENDS, at_end=False)
    return Written(as_utf8(_with(text, live_script(made, writer.libraries.packed), BODY_ENDS, at_end=True)))


def _with(text: str, more: str, place: re.Pattern[str], at_end: bool) -> str:
    """A page with more before a tag; where there is none, such as in a part of a page, at its end or its beginning."""
    if not more:
        return text
    if place.search(text):
        return place.sub(lambda found: more + found[0], text, count=1)
    return text + more if at_end else more + text
