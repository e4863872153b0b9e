"""PDF, as an output."""

from __future__ import annotations

from wornpage.output.kind import Input, Job, Written
from wornpage.output.pdf.options import PdfPress
from wornpage.tree.nodes import Composed


class Pdf:
    """Sheets that conform to PDF/UA-1."""

    name, suffix = "pdf", ".pdf"
    options = PdfPress
    looks = ("sheet.typ",)

    def inputs(self, options: PdfPress) -> tuple[Input, ...]:
        """Folders with fonts."""
        folders = enumerate(options.fonts)
        return tuple(Input(("press", "pdf", "fonts", at), name, is_text=False) for at, name in folders)

    def write(self, page: Composed, job: Job) -> Written:
        """The sheets."""
        from wornpage.output.pdf.writer import write_pdf

        return write_pdf(page, job)


OUTPUT = Pdf()
