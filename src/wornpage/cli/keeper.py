"""The keeper of commands, as a process: `python -m wornpage.cli.keeper SOCKET`."""

from __future__ import annotations

import sys
from pathlib import Path

from wornpage.cli import command
from wornpage.keeper.keeping import Keeper

_FIRST = (
    "wornpage.cli.pressing", "wornpage.press", "wornpage.session.process", "wornpage.output.html.kind",
    "wornpage.settings.yaml_text", "wornpage.store.care",
)  # fmt: skip
"""What nearly every command imports."""

if __name__ == "__main__":
    Keeper(Path(sys.argv[1]), command, _FIRST).run()
