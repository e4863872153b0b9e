"""Workbooks, as an output."""

from __future__ import annotations

from wornpage.output.kind import Input, Job, Sayable, Written
from wornpage.output.xlsx.options import XlsxPress
from wornpage.tree.nodes import Composed


class Xlsx:
    """A workbook in Office Open XML: a sheet for each captioned table, or an office's own with its cells filled."""

    name, suffix = "xlsx", ".xlsx"
    options = XlsxPress
    looks = ()
    manifest = {"xlsx-font": Sayable(".+"), "xlsx-size": Sayable(r"[1-9]\d?(?:\.\d+)?(?:pt)?", "points, such as `11`")}

    def inputs(self, options: XlsxPress) -> tuple[Input, ...]:
        """The office's workbook."""
        return (Input(("press", "xlsx", "workbook"), options.workbook, is_text=False),) if options.workbook else ()

    def write(self, page: Composed, job: Job) -> Written:
        """The workbook."""
        from wornpage.output.xlsx.writer import write_xlsx

        return write_xlsx(page, job)


OUTPUT = Xlsx()
