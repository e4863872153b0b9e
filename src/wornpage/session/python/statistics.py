"""`page.summary` and `page.crosstab`: counts and moments of a frame, as tables."""

from __future__ import annotations

import difflib
from collections.abc import Sequence
from typing import Any

from wornpage.tree.older import beside

Table = dict[str, Any]
_SUMMARY = ("n", "missing", "mean", "sd", "least", "median", "most")


def summarised(frame: Any, *, columns: Sequence[str] | None, by: str | None) -> Table:
    """Descriptive statistics; with `by`, mean and standard deviation for each of its values side by side."""
    frame = _pandas(frame)
    chosen = [_known(frame, name) for name in columns] if columns else [name for name in frame.columns if name != by]
    numbers = [name for name in chosen if _is_number(frame[name])]
    others = [name for name in chosen if name not in numbers and (columns or _is_category(frame[name]))]
    if by is not None:
        return _by_group(frame, numbers, others, _known(frame, by))
    if numbers:
        return _moments(frame, numbers, others)
    return _shares(frame, others)


def crossed(frame: Any, rows: str, columns: str, *, shares: str, totals: bool) -> Table:
    """How often values of two columns meet, or their shares as percentages. Raises `ValueError`."""
    import pandas

    frame = _pandas(frame)
    if shares not in {"", "rows", "columns", "all"}:
        raise ValueError(f"shares are of `rows`, `columns` or `all`, and not of {shares!r}")
    down, across = frame[_known(frame, rows)], frame[_known(frame, columns)]
    counts = pandas.crosstab(down, across)
    base = {"rows": counts.sum(axis=1), "columns": counts.sum(axis=0), "all": counts.to_numpy().sum()}
    made: list[tuple[object, list[Any]]] = []
    labels: list[object] = [str(value) for value in counts.index]
    labels += [{"content": _word("total")}] if totals else []
    for value in counts.columns:
        cells = [int(cell) for cell in counts[value]] + ([int(counts[value].sum())] if totals else [])
        made.append((str(value), cells))
    if totals:
        sums = [int(cell) for cell in counts.sum(axis=1)]
        made.append((_word("total"), [*sums, sum(sums)]))
    if shares:
        sums_down = [*map(int, base["rows"]), int(base["all"])]
        made = [
            (head, [_share(cell, row, cells, shares, sums_down) for row, cell in enumerate(cells)])
            for head, cells in made
        ]
    extra = {"form": "percent"} if shares else {}
    index = {"heads": ["", str(rows)], "kind": "text", "cells": labels, "is_index": True, "name": str(rows)}
    columns_made: list[dict[str, object]] = [index]
    for head, cells in made:
        above = "" if isinstance(head, dict) else str(columns)
        columns_made.append({"heads": [above, head], "kind": "number", "cells": cells, "is_index": False, **extra})
    table: Table = {"columns": columns_made, "left_out": 0, "foot": 1 if totals else 0}
    return table


def _share(cell: int, row: int, cells: list[int], shares: str, sums_down: list[int]) -> float | None:
    whole = {"rows": sums_down[min(row, len(sums_down) - 1)], "columns": cells[-1], "all": sums_down[-1]}[shares]
    return cell / whole if whole else None


# --- summaries --------------------------------------------------------------------------------


def _moments(frame: Any, numbers: list[object], others: list[object]) -> Table:
    rows: list[list[object]] = []
    for name in numbers:
        held = frame[name].dropna().astype(float)
        row: list[object] = [len(held), len(frame) - len(held)]
        row += (
            [float(held.mean()), float(held.std()), float(held.min()), float(held.median()), float(held.max())]
            if len(held)
            else [None] * 5
        )
        rows.append([_float(cell) for cell in row])
    made = [_index([str(name) for name in numbers])]
    for place, word in enumerate(_SUMMARY):
        cells = [row[place] for row in rows]
        if word == "missing" and not any(cells):
            continue
        made.append(_column(_word(word), _levelled(cells, rows) if place > 1 else cells))
    table: Table = {"columns": made, "left_out": 0}
    if others:
        made.insert(2, _column(_word("share"), [{"content": ""}] * len(rows)))
    for name in others:
        _append_levels(table, frame[name], str(name))
    return table


def _levelled(cells: list[object], rows: list[list[Any]]) -> list[object]:
    """Each row with as many places as its own spread calls for, alike across the row."""
    return [
        None if cell is None else {"content": cell, "decimals": _places(rows[place][3], rows[place][2])}
        for place, cell in enumerate(cells)
    ]


def _places(spread: float | None, mean: float | None) -> int:
    """Decimals at which a standard deviation shows two digits that count."""
    import math

    size = spread or abs(mean or 0)
    return 0 if not size or not math.isfinite(size) else max(0, min(6, 1 - math.floor(math.log10(size))))


def _append_levels(table: Table, series: Any, name: str) -> None:
    """A group of rows for the values of a column that holds no numbers: how many, and which share."""
    counts = series.value_counts(dropna=False)
    start = len(table["columns"][0]["cells"])
    table.setdefault("groups", []).append({"row": start, "words": name})
    width = len(table["columns"]) - 1
    for value, count in counts.items():
        share = {"content": f"{100 * count / len(series):.0f}\u202f%"}
        cells = [_level(value), int(count), share, *[{"content": ""}] * width][: width + 1]
        for column, cell in beside(table["columns"], cells):
            column["cells"].append(cell)


def _level(value: object) -> str:
    return "\u2013" if value is None or value != value else str(value)  # noqa: PLR0124 - not-a-number is unlike itself


def _shares(frame: Any, others: list[object]) -> Table:
    table: Table = {"columns": [_index([]), _column(_word("n"), []), _column(_word("share"), [])], "left_out": 0}
    for name in others:
        _append_levels(table, frame[name], str(name))
    return table


def _by_group(frame: Any, numbers: list[object], others: list[object], by: object) -> Table:
    """A column for each value of `by`: means with standard deviations, counts with shares."""
    groups = list(frame.groupby(by, sort=True, observed=True))
    made = [_index([str(name) for name in numbers])]
    for value, part in groups:
        cells = []
        for name in numbers:
            whole, held = frame[name].dropna().astype(float), part[name].dropna().astype(float)
            places = _places(_float(whole.std()), _float(whole.mean()))
            mean, spread = (_float(held.mean()), _float(held.std())) if len(held) else (None, None)
            cells.append({"content": mean, "decimals": places, "beside": {"content": spread, "decimals": places}})
        head = f"{value} (n\u202f=\u202f{len(part)})"
        made.append({**_column(head, cells), "name": str(value)})
    words = "moments" if not others else "shares" if not numbers else "moments and shares"
    table: Table = {"columns": made, "left_out": 0, "notes": [{"words": _word(words)}]}
    for name in others:
        _append_shares(table, frame, name, groups)
    return table


def _append_shares(table: Table, frame: Any, name: object, groups: list[Any]) -> None:
    start = len(table["columns"][0]["cells"])
    table.setdefault("groups", []).append({"row": start, "words": str(name)})
    for value in frame[name].value_counts().index:
        row: list[object] = [_level(value)]
        for _, part in groups:
            count = int((part[name] == value).sum())
            share = f"{100 * count / len(part):.0f}\u202f%" if len(part) else "\u2013"
            row.append({"content": count, "beside": {"content": share}})
        for column, cell in beside(table["columns"], row):
            column["cells"].append(cell)


# --- parts ------------------------------------------------------------------------------------


def _index(cells: list[str]) -> dict[str, object]:
    return {"heads": [""], "kind": "text", "cells": cells, "is_index": True}


def _column(head: object, cells: list[Any]) -> dict[str, object]:
    name = head["word"] if isinstance(head, dict) else str(head)
    return {"heads": [head], "kind": "number", "cells": cells, "is_index": False, "name": name}


def _word(name: str) -> dict[str, object]:
    """A word that the page's language has."""
    return {"word": name}


def _float(value: object) -> Any:
    number = value.item() if hasattr(value, "item") else value
    return None if number is None or number != number else number  # noqa: PLR0124


def _is_number(series: Any) -> bool:
    import pandas

    types = pandas.api.types
    return types.is_numeric_dtype(series.dtype) and not types.is_bool_dtype(series.dtype)


def _is_category(series: Any) -> bool:
    """Whether a column holds few enough values to list them all."""
    import pandas

    return not pandas.api.types.is_datetime64_any_dtype(series.dtype) and series.nunique(dropna=False) <= 12


def _known(frame: Any, name: object) -> object:
    if name in frame.columns:
        return name
    names = [str(column) for column in frame.columns]
    near = difflib.get_close_matches(str(name), names, 3)
    hint = f"did you mean {' or '.join(map(repr, near))}?" if near else f"there are: {', '.join(map(repr, names))}"
    raise ValueError(f"this frame has no column {name!r}; {hint}")


def _pandas(frame: Any) -> object:
    """Any frame as one of pandas."""
    import pandas

    if isinstance(frame, pandas.DataFrame):
        return frame
    if hasattr(frame, "to_pandas"):
        return frame.to_pandas()
    return pandas.DataFrame(frame)
