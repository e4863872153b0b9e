"""Slides in the browser, as an output."""

from __future__ import annotations

from wornpage.output.deck.options import DeckPress
from wornpage.output.kind import Input, Job, Written
from wornpage.tree.nodes import Composed


class Slides:
    """One file that needs nothing else, not even its script to be read."""

    name, suffix = "slides", ".slides.html"
    options = DeckPress
    looks = ("slides.css",)
    shown_as = "slides"
    figures_live = True
    stills_too = True
    """Figures are printed, and seen in advance by the speaker, as their still pictures."""

    def inputs(self, options: DeckPress) -> tuple[Input, ...]:
        """What was drawn, and further style sheets."""
        drawn = [Input(("press", "slides", "drawn"), options.drawn)] if options.drawn else []
        sheets = (Input(("press", "slides", "stylesheets", at), name) for at, name in enumerate(options.stylesheets))
        return (*drawn, *sheets)

    def write(self, page: Composed, job: Job) -> Written:
        """The slides."""
        from wornpage.output.slides.file import write_slides

        return write_slides(page, job)


OUTPUT = Slides()
