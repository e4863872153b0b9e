"""PDF by a TeX of this machine, as an output."""

from __future__ import annotations

from wornpage.output.kind import Input, Job, Written
from wornpage.output.tex_pdf.options import TexPdfPress
from wornpage.tree.nodes import Composed


class TexPdf:
    """The sheets that LaTeX makes of the source."""

    name, suffix = "tex-pdf", ".tex.pdf"
    options = TexPdfPress
    looks = ()

    def inputs(self, options: TexPdfPress) -> tuple[Input, ...]:
        """None."""
        return ()

    def write(self, page: Composed, job: Job) -> Written:
        """The sheets."""
        from wornpage.output.tex_pdf.compiling import write_tex_pdf

        return write_tex_pdf(page, job)


OUTPUT = TexPdf()
