"""What may be set for workbooks."""

from __future__ import annotations

from typing import Annotated

from msgspec import Struct

from wornpage.tree.kinds import OneFile, Truth, Words


class XlsxPress(Struct, frozen=True):
    """Settings of the workbook."""

    workbook: Annotated[
        OneFile,
        "An office's `.xlsx` whose cells are filled by `page.cell` and `page.table(…, cell=…)`; all else in it stays.",
    ] = ""
    results: Annotated[
        dict[str, Words],
        "Values that the first sheet lists as cells with a name: words to an expression, as in `{= … as form}`.",
    ] = {}
    figures: Annotated[Truth, "Captioned figures on a sheet of their own."] = False


OPTIONS = XlsxPress
