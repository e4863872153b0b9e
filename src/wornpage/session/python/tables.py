"""Anything with rows and columns as a table, as `page.table` takes it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from wornpage.session.python.frames import as_table, plain_table
from wornpage.session.tabling import Table


def table_of(value: object) -> Table:
    """Anything with rows and columns as a table, each column with the name it goes by. Raises `ValueError`."""
    table = as_table(value)
    if table is None:
        try:
            table = _table(value)
        except (ValueError, TypeError) as error:
            raise ValueError(f"page.table wants a frame, a mapping of columns or a list of rows: {error}") from None
    assert table is not None
    for column in table["columns"]:
        column["name"] = column["heads"][-1]
    return table


def _table(value: Any) -> Table | None:
    try:
        import pandas
    except ImportError:
        return plain_table(value)
    if isinstance(value, Mapping) and not all(
        hasattr(item, "__len__") and not isinstance(item, str) for item in value.values()
    ):
        return as_table(pandas.Series(dict(value)).to_frame(""))
    return as_table(pandas.DataFrame(value))
