"""What installed packages bring: objects named in their `entry_points.txt`, a file in the metadata of each.

https://packaging.python.org/en/latest/specifications/entry-points/. Read here since it is asked in every run, and the
standard library's own reader takes ten times as long to import.
"""

from __future__ import annotations

import sys
from functools import cache
from importlib import import_module
from pathlib import Path
from typing import Any

from wornpage.tree.problem import UsageError


@cache
def brought(group: str) -> dict[str, str]:
    """By name: where the objects of a group are, as `module:object`."""
    found: dict[str, str] = {}
    for folder in sys.path:
        place = Path(folder or ".")
        for path in sorted(place.glob("*.dist-info/entry_points.txt")) if place.is_dir() else ():
            try:
                text = path.read_text(encoding="utf-8")
            except (OSError, UnicodeDecodeError):
                continue
            if f"[{group}]" in text:
                found = _named(text, group) | found
    return found


def _named(text: str, group: str) -> dict[str, str]:
    from configparser import ConfigParser, Error

    parser = ConfigParser(delimiters=("=",))
    parser.optionxform = str  # type: ignore[assignment,method-assign]
    try:
        parser.read_string(text)
    except Error:
        return {}
    return {name: place.partition(" ")[0] for name, place in parser[group].items()}


def load(place: str) -> Any:
    """The object at `module:object`. Raises `UsageError` for one of somebody else's that cannot be had."""
    module, _, path = place.partition(":")
    try:
        found: Any = import_module(module)
        for part in filter(None, path.split(".")):
            found = getattr(found, part)
    except Exception as error:
        if module.partition(".")[0] == "wornpage":
            raise
        what = f"an installed package brings {place!r} to Worn Page, which cannot be loaded: {type(error).__name__}: {error}."
        raise UsageError(f"{what} Mend or uninstall the package.") from None
    return found
