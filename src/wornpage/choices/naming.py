"""Names of editions as file names: made from values, so they may hold anything."""

from __future__ import annotations

import re
import unicodedata

_UNFIT = re.compile(r'[\x00-\x1f\x7f<>:"/\\|?*\u2028\u2029]+')
_RESERVED = re.compile(r"(?:con|prn|aux|nul|com\d|lpt\d|index)(?:\.|$)", re.IGNORECASE)
_LONGEST = 120
"""Bytes: with an ending and a number it still fits every file system."""


def safe_name(text: str) -> str:
    """`text` as the name of a file in one folder, on every system."""
    name = _UNFIT.sub("-", unicodedata.normalize("NFC", text).replace("\ufffd", "-"))
    name = " ".join(name.split()).strip(" .-")[:_LONGEST].rstrip(" .-")
    while len(name.encode("utf-8", "replace")) > _LONGEST:
        name = name[:-1].rstrip(" .-")
    if not name:
        return "edition"
    return f"{name}-edition" if _RESERVED.match(name) else name


def unlike(name: str, taken: set[str]) -> str:
    """`name`, or with a number behind it if a file system could take it for one of those `taken`; adds it to them."""
    made, number = name, 1
    while made.casefold() in taken:
        number += 1
        made = f"{name}-{number}"
    taken.add(made.casefold())
    return made
