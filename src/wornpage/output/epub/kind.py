"""EPUB, as an output."""

from __future__ import annotations

from wornpage.output.epub.options import EpubPress
from wornpage.output.kind import Input, Job, Written
from wornpage.tree.nodes import Composed


class Epub:
    """EPUB 3.3 for readers of any size."""

    name, suffix = "epub", ".epub"
    options = EpubPress
    looks: tuple[str, ...] = ()

    def inputs(self, options: EpubPress) -> tuple[Input, ...]:
        """The cover, and further style sheets."""
        cover = [Input(("press", "epub", "cover"), options.cover, is_text=False)] if options.cover else []
        sheets = (Input(("press", "epub", "stylesheets", at), name) for at, name in enumerate(options.stylesheets))
        return (*cover, *sheets)

    def write(self, page: Composed, job: Job) -> Written:
        """The book."""
        from wornpage.output.epub.book import write_epub

        return write_epub(page, job)


OUTPUT = Epub()
