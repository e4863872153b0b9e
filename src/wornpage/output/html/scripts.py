"""Scripts that pages carry, or that servers hand out beside them."""

from __future__ import annotations

from pathlib import Path

OF_FIELDS = "fields.js"
"""Reads and writes the fields of given values (`fields.py`); it must come before those that use it."""
OF_ORIGINS = "origins.js"
"""Asks where things come from (`origins.py`)."""


def own_script(*names: str) -> str:
    """Scripts of this folder, one after the other."""
    return "\n".join((Path(__file__).parent / name).read_text(encoding="utf-8").strip() for name in names)
