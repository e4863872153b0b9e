"""Anything with rows and columns as a table, as `page.table` takes it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from wornpage.session.python.frames import MAX_ROWS, as_table, plain_table
from wornpage.session.tabling import Table

WHOLE = 1_048_000
"""Rows that a sheet of a workbook holds."""


def table_of(value: object, whole: bool = False) -> Table:
    """Anything with rows and columns as a table, with all its rows if it is `whole`, each column with the name it goes by. Raises `ValueError`."""
    most = WHOLE if whole else MAX_ROWS
    table = as_table(value, most)
    if table is None:
        try:
            table = _table(value, most)
        except (ValueError, TypeError) as error:
            raise ValueError(f"page.table wants a frame, a mapping of columns or a list of rows: {error}") from None
    assert table is not None
    for column in table["columns"]:
        column["name"] = column["heads"][-1]
    return table


def _table(value: Any, most: int) -> Table | None:
    try:
        import pandas
    except ImportError:
        return plain_table(value, most)
    if isinstance(value, Mapping) and not all(
        hasattr(item, "__len__") and not isinstance(item, str) for item in value.values()
    ):
        return as_table(pandas.Series(dict(value)).to_frame(""), most)
    return as_table(pandas.DataFrame(value), most)
