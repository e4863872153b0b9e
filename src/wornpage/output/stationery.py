"""Where the looks of a page lie, and reading them."""

from __future__ import annotations

from functools import cache
from importlib.resources import files


@cache
def look(stationery: str, name: str) -> str:
    """One file of a built-in stationery, as text."""
    return (files("wornpage.stationery") / stationery / name).read_text(encoding="utf-8")


def names() -> list[str]:
    """The stationeries that are built in."""
    return sorted(entry.name for entry in files("wornpage.stationery").iterdir() if (entry / "manifest.yaml").is_file())
