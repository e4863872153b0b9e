"""Sizes of sheets: by their usual names, upright or on their side, or as two lengths."""

from __future__ import annotations

import re
from typing import Annotated

from msgspec import Struct

from wornpage.tree.kinds import Read, read_length

_NAMED = {
    "a3": (29.7, 42.0), "a4": (21.0, 29.7), "a5": (14.8, 21.0), "a6": (10.5, 14.8), "letter": (21.59, 27.94), "legal": (21.59, 35.56),
}  # fmt: skip
A4 = _NAMED["a4"]
_OWN = re.compile(r"(\S+)\s*[x×]\s*(\S+)")
_ASIDE = " landscape"


class Sheet(Struct, frozen=True):
    """A sheet, in centimetres."""

    width: float
    height: float


def read_paper(value: object) -> str:
    """A size of sheets as it is kept. Raises `ValueError` with what to write."""
    text = " ".join(str(value).lower().split())
    name = text.removesuffix(_ASIDE)
    if name not in _NAMED:
        sides = _OWN.fullmatch(name)
        if sides is None:
            raise ValueError(
                f"write one of {', '.join(_NAMED)}, or a size such as `17cm x 24cm`; ` landscape` lays it on its side"
            )
        for side in sides.groups():
            if not 5 <= read_length(side) <= 120:
                raise ValueError("the sides of a sheet lie between 5cm and 120cm")
    return text


def sheet_of(paper: str) -> Sheet:
    """The sheet of a size as `read_paper` gives it."""
    name = paper.removesuffix(_ASIDE)
    sides = _OWN.fullmatch(name)
    width, height = _NAMED.get(name) or (read_length(sides[1]), read_length(sides[2]))  # type: ignore[index]
    return Sheet(height, width) if paper.endswith(_ASIDE) else Sheet(width, height)


Paper = Annotated[str, Read(read_paper, lambda value: {"type": "string"})]
