"""Faults of Worn Page itself: their details are kept for a report and spare the person at the terminal."""

from __future__ import annotations


def kept_details() -> str:
    """The traceback of the exception being handled, written to a file; its path."""
    import tempfile
    import traceback

    with tempfile.NamedTemporaryFile("w", prefix="worn-fault-", suffix=".txt", delete=False, encoding="utf-8") as file:
        traceback.print_exc(file=file)
    return file.name
