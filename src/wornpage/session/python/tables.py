"""Anything with rows and columns as a table, as `page.table` takes it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from wornpage.session.python.frames import as_table
from wornpage.session.tabling import Table


def table_of(value: object) -> Table:
    """Anything with rows and columns as a table, each column with the name it goes by. Raises `ValueError`."""
    table = as_table(value)
    if table is None:
        table = as_table(_framed(value))
    assert table is not None
    for column in table["columns"]:
        column["name"] = column["heads"][-1]
    return table


def _framed(value: Any) -> object:
    import pandas

    if isinstance(value, Mapping) and not all(
        hasattr(item, "__len__") and not isinstance(item, str) for item in value.values()
    ):
        return pandas.Series(dict(value)).to_frame("")
    try:
        return pandas.DataFrame(value)
    except (ValueError, TypeError) as error:
        raise ValueError(f"page.table wants a frame, a mapping of columns or a list of rows: {error}") from None
