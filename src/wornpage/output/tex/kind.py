"""LaTeX sources, as an output."""

from __future__ import annotations

from wornpage.output.kind import Input, Job, Sayable, Written
from wornpage.output.tex.options import TexPress
from wornpage.tree.nodes import Composed


class Tex:
    """One `.tex` file to be edited by hand, with a folder of figures."""

    name, suffix = "tex", ".tex"
    options = TexPress
    looks = ("sheet.tex.j2",)
    manifest = {"tex-cites": Sayable("text|biblatex|natbib", "`text`, `biblatex` or `natbib`")}
    has_folder = True

    def inputs(self, options: TexPress) -> tuple[Input, ...]:
        """None."""
        return ()

    def write(self, page: Composed, job: Job) -> Written:
        """The source."""
        from wornpage.output.tex.writer import write_tex

        return write_tex(page, job)


OUTPUT = Tex()
