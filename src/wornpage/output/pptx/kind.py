"""Presentations, as an output."""

from __future__ import annotations

from wornpage.output.kind import Input, Job, Sayable, Written
from wornpage.output.pptx.options import USES, PptxPress
from wornpage.tree.nodes import Composed


class Pptx:
    """A presentation that office programs open, as native as one made by hand."""

    name, suffix = "pptx", ".pptx"
    options = PptxPress
    looks: tuple[str, ...] = ()
    shown_as = "slides"
    manifest = {f"{use}-layout": Sayable() for use in USES}

    def inputs(self, options: PptxPress) -> tuple[Input, ...]:
        """The template."""
        return (Input(("press", "pptx", "template"), options.template, is_text=False),) if options.template else ()

    def write(self, page: Composed, job: Job) -> Written:
        """The presentation."""
        from wornpage.output.pptx.presentation import write_pptx

        return write_pptx(page, job)


OUTPUT = Pptx()
