"""Sends what a store has noted for the team: `python -m wornpage.team STORE`."""

from __future__ import annotations

import os
import sys
from contextlib import suppress
from pathlib import Path

from wornpage.team.sending import send

if __name__ == "__main__":
    with suppress(OSError):
        os.nice(10)
    send(Path(sys.argv[1]))
