"""HTML, as an output."""

from __future__ import annotations

from wornpage.output.html.options import HtmlPress
from wornpage.output.kind import Input, Job, Written
from wornpage.tree.nodes import Composed


class Html:
    """One file that needs nothing else."""

    name, suffix = "html", ".html"
    figures_live = True
    options = HtmlPress
    looks = ("page.css", "page.html.j2")

    def inputs(self, options: HtmlPress) -> tuple[Input, ...]:
        """What is put into the head, and further style sheets."""
        head = [Input(("press", "html", "head"), options.head)] if options.head else []
        sheets = (Input(("press", "html", "stylesheets", at), name) for at, name in enumerate(options.stylesheets))
        return (*head, *sheets)

    def write(self, page: Composed, job: Job) -> Written:
        """The file."""
        if page.host:
            from wornpage.output.html.hosted import write_hosted

            return write_hosted(page, job)
        from wornpage.output.html.writer import write_html

        return write_html(page, job)


OUTPUT = Html()
