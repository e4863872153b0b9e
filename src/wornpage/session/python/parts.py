"""What a value has that can be asked for by a word: columns of a frame, keys of a mapping. Told for help while writing; nothing hangs on it."""

from __future__ import annotations

from itertools import islice
from typing import Any

_MOST = 200
_LONGEST = 80
_FRAMES = {("pandas", "DataFrame"), ("polars", "DataFrame"), ("geopandas", "GeoDataFrame")}


def parts_of(value: Any) -> list[str]:
    """The first of them, in order; none for other values. Never fails, and never asks anything of a value that it does not know."""
    kind = type(value)
    if kind is dict:
        return [key for key in islice(value, _MOST) if type(key) is str and len(key) <= _LONGEST]
    if (str(kind.__module__).partition(".")[0], kind.__name__) in _FRAMES:
        try:
            return [name for name in islice(value.columns, _MOST) if type(name) is str and len(name) <= _LONGEST]
        except Exception:
            return []
    return []
