"""Rows as frames, and single values as drivers take them."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress
from typing import Any

_DATED = ("DATE", "TIMESTAMP")
_EMPTY = {
    "INT": "int64",
    "BIGINT": "int64",
    "INTEGER": "int64",
    "SMALLINT": "int64",
    "REAL": "float64",
    "DOUBLE": "float64",
    "FLOAT": "float64",
    "DECIMAL": "float64",
    "NUMERIC": "float64",
}


def simple(value: Any) -> Any:
    """A value as drivers take it: numbers of NumPy as what they are."""
    return value.item() if hasattr(value, "item") and getattr(value, "ndim", 0) == 0 else value


def frame_of(rows: list[Any], names: list[str], declared: Sequence[str] = ()) -> Any:
    """Rows as a frame, each column of the type that its values have, or that its database has `declared` for it."""
    import pandas

    columns = list(zip(*rows)) if rows else [()] * len(names)
    told = declared if len(declared) == len(names) else [""] * len(names)
    made = {place: _column(list(column), told[place].upper()) for place, column in enumerate(columns)}
    frame = pandas.DataFrame(made)
    frame.columns = pandas.Index(names)
    return frame


def _column(values: list[Any], declared: str) -> Any:
    import pandas

    kinds = {type(value) for value in values if value is not None}
    if kinds == {int} and declared.startswith("BOOL") and set(values) <= {0, 1, None}:
        truths = [None if value is None else bool(value) for value in values]
        return pandas.Series(truths, dtype="boolean" if None in values else "bool")
    if kinds == {str} and declared.startswith(_DATED):
        with suppress(ValueError):  # it stays the text that it is
            return pandas.to_datetime(pandas.Series(values), format="ISO8601")
    if not kinds and not values:
        return pandas.Series(
            [],
            dtype="datetime64[ns]" if declared.startswith(_DATED) else _EMPTY.get(declared.partition("(")[0], "object"),
        )
    if kinds == {int} and None in values:
        return pandas.Series(values, dtype="Int64")
    if kinds == {bool} and None in values:
        return pandas.Series(values, dtype="boolean")
    if kinds and {kind.__name__ for kind in kinds} <= {"date", "datetime"}:
        return pandas.to_datetime(pandas.Series(values))
    is_mixed = not kinds or {kind.__name__ for kind in kinds} & {"Decimal"}
    return pandas.Series(values, dtype="object" if is_mixed else None)
