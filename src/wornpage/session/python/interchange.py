"""Frames of other libraries: their columns as plain Python values."""

from __future__ import annotations

import datetime
import math
from typing import Any


def is_frame(value: object) -> bool:
    """Whether `value` speaks the dataframe interchange protocol, or is a frame or table of columns, or can become one."""
    if isinstance(value, type):
        return False
    if hasattr(value, "__dataframe__") or (hasattr(value, "__arrow_c_stream__") and hasattr(value, "slice")):
        return True
    return bool(_way_to_pandas(type(value)))


def _way_to_pandas(kind: type) -> str:
    """The method by which a table with named columns becomes a frame of pandas; empty for none."""
    if not (hasattr(kind, "columns") or hasattr(kind, "colnames")):
        return ""
    return next((name for name in ("to_pandas", "df") if callable(getattr(kind, name, None))), "")


def read_columns(value: Any, rows: int) -> tuple[dict[str, list[object]], int]:
    """Each column's first `rows` values under its name, and how many rows there are in all."""
    if hasattr(value, "to_pydict"):  # Arrow
        return value.slice(0, rows).to_pydict(), value.num_rows
    if type(value).__module__.startswith("polars"):
        frame = value if hasattr(value, "columns") else value.to_frame()
        return frame.head(rows).to_dict(as_series=False), len(frame)
    if hasattr(value, "__dataframe__"):
        from pandas.api.interchange import from_dataframe

        frame = from_dataframe(value)
    else:
        frame = getattr(value, _way_to_pandas(type(value)))()
    return {str(name): list(frame[name].iloc[:rows]) for name in frame.columns}, len(frame)


def kind_of(values: list[object]) -> str:
    """What the values of one column are: `number`, `truth`, `date` or `text`."""
    known = [value for value in values if value is not None and not (isinstance(value, float) and math.isnan(value))]
    if known and all(isinstance(value, bool) for value in known):
        return "truth"
    if known and all(isinstance(value, (int, float)) for value in known):
        return "number"
    if known and all(isinstance(value, datetime.date) for value in known):
        return "date"
    return "text"
