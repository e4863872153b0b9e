"""What may be set of how a chunk is shown, whatever it is that it made: outputs may have defaults of their own for these."""

from __future__ import annotations

from typing import Annotated, Literal

from msgspec import Struct

from wornpage.tree.kinds import Align, Between, Count, Truth


class ShownOptions(Struct, frozen=True):
    """How chunks are shown."""

    show: Annotated[Literal["all", "source", "output", "nothing"], "What readers see."] = "all"
    notices: Annotated[Truth, "Show warnings, messages and standard error."] = True
    align: Annotated[Align, "Where figures and tables stand between the margins."] = "centre"
    tuck: Annotated[Truth, "Tuck the code away behind its label."] = False
    line_numbers: Annotated[Truth, "Number the lines of code."] = False
    decimals: Annotated[Annotated[Count, Between(0, 15)] | None, "Decimals of shown values and tables."] = None
    max_lines: Annotated[Count, "Lines of printed output that are shown."] = 200
    rows: Annotated[Count, Between(1, 2000), "Rows of a table that are shown; the rest is counted."] = 2000
    output_goes: Annotated[
        Literal["below", "next-step", "beside", "next-slide"], "Where output stands on slides, beside its code."
    ] = "below"
