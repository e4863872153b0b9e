"""Documents for word processors, as an output."""

from __future__ import annotations

from wornpage.output.docx.options import DocxPress
from wornpage.output.kind import Input, Job, Written
from wornpage.tree.nodes import Composed


class Docx:
    """Office Open XML that a word processor edits as if it had been written there."""

    name, suffix = "docx", ".docx"
    options = DocxPress
    looks = ("document.toml",)

    def inputs(self, options: DocxPress) -> tuple[Input, ...]:
        """The template."""
        return (Input(("press", "docx", "template"), options.template, is_text=False),) if options.template else ()

    def write(self, page: Composed, job: Job) -> Written:
        """The document."""
        from wornpage.output.docx.writer import write_docx

        return write_docx(page, job)


OUTPUT = Docx()
