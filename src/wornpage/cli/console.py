"""Where tables and trees are drawn: standard output, plain where it is no terminal."""

from __future__ import annotations

import os
import shutil
import sys
from functools import cache
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from rich.console import Console


@cache
def console() -> Console:
    """The console of this process; readable at 80 columns and without colour."""
    from rich.console import Console

    width = (
        shutil.get_terminal_size((100, 24)).columns if sys.stdout.isatty() else int(os.environ.get("COLUMNS", "100"))
    )
    plain = not sys.stdout.isatty() or bool(os.environ.get("NO_COLOR"))
    return Console(width=max(width, 60), no_color=plain, highlight=False, emoji=False)
