"""Data frames as tables: typed columns, heads in levels, an index only where it means something."""

from __future__ import annotations

import datetime
import math
import sys
from collections.abc import Callable, Mapping
from typing import Any

from wornpage.session.python.values import writable

MAX_ROWS = 2_000
"""Rows of one table that are shown; the rest is counted."""
_LONGEST = 200
"""Letters of what an object writes of itself that are shown in a cell, such as the corners of a shape; words are whole."""


def as_table(value: Any, most: int = MAX_ROWS) -> dict[str, Any] | None:
    """`value` as a table of up to `most` rows if it is a frame or a series of any library that is loaded; None otherwise."""
    pandas = sys.modules.get("pandas")
    if pandas is not None:
        if isinstance(value, pandas.DataFrame):
            return _pandas_table(value, pandas, most)
        if isinstance(value, pandas.Series):
            return _pandas_table(value.to_frame(value.name if value.name is not None else ""), pandas, most)
        if type(value).__name__ == "Styler" and isinstance(getattr(value, "data", None), pandas.DataFrame):
            from wornpage.session.python.styled import styled_table

            return styled_table(value, _pandas_table(value.data, pandas, most), most)
    from wornpage.session.python.interchange import is_frame

    if is_frame(value):
        return _interchange_table(value, most)
    return None


# --- pandas -----------------------------------------------------------------------------------


def _pandas_table(frame: Any, pandas: object, most: int) -> dict[str, object]:
    shown = frame.iloc[:most]
    levels = [_word(name) for name in frame.columns.names]
    above = len(levels) == 1 and bool(levels[0])  # the name of the columns stands over all of them
    depth = len(levels) + above
    columns = _index_columns(shown.index, depth, pandas)
    if len(levels) > 1 and columns:
        columns[-1]["heads"] = _level_names(levels, columns[-1]["heads"])
    for place in range(shown.shape[1]):
        name = frame.columns[place]
        heads = [_word(part) for part in name] if len(levels) > 1 else [_word(name)]
        columns.append(_pandas_column(levels * above + heads, shown.iloc[:, place], pandas))
    return {"columns": columns, "left_out": max(0, len(frame) - most)}


def _level_names(levels: list[str], heads: list[str]) -> list[str]:
    """Heads of the last index column: each row of heads begins with the name of its level, the last also with the index's own."""
    *upper, lowest = levels
    own = heads[-1]
    return [*upper, f"{own} / {lowest}" if own and lowest else own or lowest]


def _index_columns(index: Any, depth: int, pandas: Any) -> list[dict[str, Any]]:
    """One column a level of the index; none for row numbers that only count."""
    if isinstance(index, pandas.RangeIndex) and index.name is None:
        return []
    if index.nlevels == 1 and index.name is None and pandas.api.types.is_integer_dtype(index.dtype):
        return []  # row numbers left over from filtering or sorting
    columns = []
    for level in range(index.nlevels):
        values = index.get_level_values(level)
        heads = [""] * (depth - 1) + [_word(index.names[level])]
        column = _pandas_column(heads, values.to_series(), pandas)
        columns.append({**column, "is_index": True})
    return columns


def _pandas_column(heads: list[str], series: Any, pandas: Any) -> dict[str, object]:
    types = pandas.api.types
    if types.is_bool_dtype(series.dtype):
        return _column(heads, "truth", [None if _missing(v) else bool(v) for v in series])
    if types.is_numeric_dtype(series.dtype) and not types.is_complex_dtype(series.dtype):
        return _column(heads, "number", [_number(v) for v in series])
    if types.is_datetime64_any_dtype(series.dtype):
        return _column(heads, "date", _moments(series))
    if types.is_timedelta64_dtype(series.dtype):
        return _column(heads, "text", _durations(series), align="right")
    if types.is_object_dtype(series.dtype):
        return _object_column(heads, list(series))
    return _column(heads, "text", [None if _missing(v) else _word(v) for v in series])


def _moments(series: Any) -> list[str | None]:
    """Dates in ISO form; the time of day only if one of them has any."""
    texts = [None if _missing(value) else value.isoformat(sep=" ") for value in series]
    if all(text is None or text[10:].startswith(" 00:00:00") for text in texts):
        return [text and text[:10] for text in texts]
    return texts


def _durations(series: Any) -> list[str | None]:
    """Lengths of time: days if any has them, hours, minutes, seconds, and what is below as far as there is any."""
    known = [None if _missing(value) else value for value in series]
    has_days = any(value is not None and abs(value).components.days for value in known)
    return [None if value is None else _duration(value, has_days) for value in known]


def _duration(value: Any, has_days: bool) -> str:
    part, sign = abs(value).components, "\u2212" if value.value < 0 else ""
    below = f"{part.milliseconds:03}{part.microseconds:03}{part.nanoseconds:03}".rstrip("0")
    clock = f"{part.hours:02}:{part.minutes:02}:{part.seconds:02}" + (f".{below}" if below else "")
    return sign + (f"{part.days} d {clock}" if has_days else clock)


def _object_column(heads: list[str], values: list[Any]) -> dict[str, object]:
    """A column of mixed values: numbers if all are, text otherwise."""
    known = [value for value in values if not _missing(value)]
    if known and all(isinstance(value, (int, float)) and not isinstance(value, bool) for value in known):
        return _column(heads, "number", [_number(value) for value in values])
    if known and all(isinstance(value, bool) for value in known):
        return _column(heads, "truth", [None if _missing(value) else value for value in values])
    if known and all(type(value).__name__ == "Decimal" for value in known):
        return _column(
            heads, "number", [None if _missing(value) or value.is_nan() else format(value, "f") for value in values]
        )
    if known and all(isinstance(value, datetime.date) for value in known):
        return _column(heads, "date", [None if _missing(value) else _iso(value) for value in values])
    return _column(heads, "text", [None if _missing(value) else _word(value) for value in values])


# --- without a library ------------------------------------------------------------------------


def plain_table(value: Any, most: int = MAX_ROWS) -> dict[str, object]:
    """A table from a mapping of columns or of single values, or from a list of rows. Raises `ValueError`."""
    if isinstance(value, Mapping):
        if any(isinstance(item, str) or not hasattr(item, "__len__") for item in value.values()):
            names = {**_object_column([""], list(value)), "is_index": True}
            return {"columns": [names, _object_column([""], list(value.values()))], "left_out": 0}
        columns = {str(name): list(items) for name, items in value.items()}
    else:
        rows = list(value)
        named = [row if isinstance(row, Mapping) else dict(enumerate(row)) for row in rows]
        columns = {
            str(name): [row.get(name) for row in named] for name in dict.fromkeys(n for row in named for n in row)
        }
    lengths = {len(items) for items in columns.values()}
    if len(lengths) > 1:
        raise ValueError("all columns must be equally long")
    made = [_object_column([name], items[:most]) for name, items in columns.items()]
    return {"columns": made, "left_out": max(0, *lengths, most) - most}


# --- other libraries --------------------------------------------------------------------------


def _interchange_table(value: object, most: int) -> dict[str, object]:
    """A table from a frame of another library."""
    from wornpage.session.python.interchange import kind_of, read_columns

    found, rows = read_columns(value, most)
    columns = []
    for name, values in found.items():
        kind = kind_of(values)
        make: Callable[[object], object] = _MAKERS.get(kind, _word)
        cells = [None if _missing(cell) else make(cell) for cell in values]
        columns.append(_column([str(name)], kind, cells))
    return {"columns": columns, "left_out": max(0, rows - most)}


def _truth(value: object) -> bool:
    return bool(value)


def _iso(value: Any) -> str:
    text: str = value.isoformat()
    return text.replace("T", " ").removesuffix(" 00:00:00")


# --- cells ------------------------------------------------------------------------------------


def _column(heads: list[str], kind: str, cells: list[Any], align: str = "") -> dict[str, object]:
    return {"heads": heads, "kind": kind, "cells": cells, "is_index": False, "align": align}


def _missing(value: object) -> bool:
    if value is None or type(value).__name__ in {"NAType", "NaTType"}:
        return True
    return isinstance(value, float) and math.isnan(value)


def _number(value: Any) -> int | float | None:
    if _missing(value):
        return None
    number = value.item() if hasattr(value, "item") else value
    if isinstance(number, (bool, int)):
        return writable(int(number))
    return None if math.isnan(float(number)) else float(number)


def _word(value: object) -> str:
    from wornpage.session.python.values import without_addresses

    if value is None:
        return ""
    text = without_addresses(str(value))
    is_long = not isinstance(value, str) and len(text) > _LONGEST
    return text[:_LONGEST].rstrip() + " …" if is_long else text


_MAKERS: dict[str, Callable[[object], object]] = {"number": _number, "date": _iso, "truth": _truth}
"""How a value of each kind becomes a cell; text otherwise."""
