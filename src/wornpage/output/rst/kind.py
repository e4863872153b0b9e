"""Sources in reStructuredText, as an output."""

from __future__ import annotations

from wornpage.output.kind import Input, Job, Written
from wornpage.output.rst.options import RstPress
from wornpage.tree.nodes import Composed


class Rst:
    """One `.rst` file to be edited by hand, with a folder of figures."""

    name, suffix = "rst", ".rst"
    options = RstPress
    looks = ()
    has_folder = True

    def inputs(self, options: RstPress) -> tuple[Input, ...]:
        """None."""
        return ()

    def write(self, page: Composed, job: Job) -> Written:
        """The source."""
        from wornpage.output.rst.writer import write_rst

        return write_rst(page, job)


OUTPUT = Rst()
