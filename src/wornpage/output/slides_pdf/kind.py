"""Slides in PDF, as an output."""

from __future__ import annotations

from wornpage.output.kind import Input, Job, Written
from wornpage.output.slides_pdf.options import SlidesPdfPress
from wornpage.tree.nodes import Composed


class SlidesPdf:
    """Sheets that conform to PDF/UA-1, as wide as slides are."""

    name, suffix = "slides-pdf", ".slides.pdf"
    options = SlidesPdfPress
    looks = ("deck.typ",)
    shown_as = "slides"

    def inputs(self, options: SlidesPdfPress) -> tuple[Input, ...]:
        """Folders with fonts."""
        folders = enumerate(options.fonts)
        return tuple(Input(("press", "slides-pdf", "fonts", at), name, is_text=False) for at, name in folders)

    def write(self, page: Composed, job: Job) -> Written:
        """The sheets."""
        from wornpage.output.slides_pdf.writer import write_slides_pdf

        return write_slides_pdf(page, job)


OUTPUT = SlidesPdf()
