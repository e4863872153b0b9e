"""Faults of Worn Page itself: their details are kept for a report and spare the person at the terminal."""

from __future__ import annotations

_A_WEEK = 7 * 86_400


def kept_details() -> str:
    """The traceback of the exception being handled, written to a file; its path. Reports of more than a week ago go."""
    import tempfile
    import time
    import traceback
    from contextlib import suppress
    from pathlib import Path

    with tempfile.NamedTemporaryFile("w", prefix="worn-fault-", suffix=".txt", delete=False, encoding="utf-8") as file:
        traceback.print_exc(file=file)
    for old in Path(tempfile.gettempdir()).glob("worn-fault-*.txt"):
        with suppress(OSError):
            if time.time() - old.stat().st_mtime > _A_WEEK:
                old.unlink()
    return file.name
