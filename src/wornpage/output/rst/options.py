"""What may be set for sources in reStructuredText."""

from __future__ import annotations

from typing import Annotated

from msgspec import Struct

from wornpage.tree.kinds import Truth


class RstPress(Struct, frozen=True):
    """Settings of the source in reStructuredText."""

    contents: Annotated[Truth, "Ask for a table of contents after the title."] = False


OPTIONS = RstPress
"""Sources in reStructuredText, for manuals that are written in it."""
