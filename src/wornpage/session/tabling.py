"""Tables with the looks that their author asks for, still as data: for `page.table` and its like, in every language."""

from __future__ import annotations

import difflib
import re
from collections.abc import Callable, Mapping, Sequence
from typing import Any

from wornpage.tree.counting import letters
from wornpage.tree.older import beside

Table = dict[str, Any]
Words = Callable[[object], dict[str, object]]
"""Makes told words of a text."""
_SPECIFICATION = re.compile(r"(?=.*[.,eEfFgG%\d])(?:.?[<>=^])?[-+ ]?#?0?\d*[_,]?(?:\.\d+)?[eEfFgGn%]?")
"""A format specification of Python for numbers, which needs no quotes here."""
_FORM = re.compile(r"percent|thousands|words|p-value|\d{1,2} decimals?|\"[^\"]*\"|'[^']*'")


def laid_out(
    table: Table, told: Words, *, spans: Any, units: Any, intervals: Any, groups: object, **looks: object
) -> Table:
    """`table` with everything that `page.table` can be asked for; each column has the `name` that it goes by."""
    if intervals:
        _join_intervals(table, intervals)
    if groups is not None:
        _group(table, str(groups))
    table = finished(table, told, **looks)
    for name, unit in (units or {}).items():
        _add_unit(_column(table, name, "units"), str(unit))
    if spans:
        _span(table, spans, told)
    return table


def finished(
    table: Table,
    told: Words,
    *,
    notes: object = None,
    decimals: object = None,
    heads: object = None,
    align: object = None,
    forms: object = None,
) -> Table:
    """`table` with looks that any table can have."""
    for column in table["columns"]:
        column.setdefault("name", column["heads"][-1])
    if isinstance(decimals, int):
        for column in table["columns"]:
            column.setdefault("decimals", decimals)
    for name, places in decimals.items() if isinstance(decimals, Mapping) else ():
        _column(table, name, "decimals")["decimals"] = places
    _set(table, "align", align, _aligned)
    _set(table, "form", forms, _formed)
    _name_heads(table, heads, told)
    _note(table, notes, told)
    return table


def _column(table: Table, name: object, asked: str) -> dict[str, Any]:
    """The column called `name`. Raises `ValueError` with near misses."""
    for column in table["columns"]:
        if column["name"] == str(name):
            found: dict[str, object] = column
            return found
    names = [column["name"] for column in table["columns"]]
    near = difflib.get_close_matches(str(name), names, 3)
    hint = f"did you mean {' or '.join(map(repr, near))}?" if near else f"there are: {', '.join(map(repr, names))}"
    raise ValueError(f"{asked}: this table has no column {str(name)!r}; {hint}")


def _set(table: Table, key: str, wanted: object, check: Callable[[object], str]) -> None:
    """One look for all columns that tell something, or by column."""
    if wanted is None:
        return
    if isinstance(wanted, Mapping):
        for name, value in wanted.items():
            _column(table, name, key)[key] = check(value)
        return
    for column in table["columns"]:
        if not column["is_index"] and (key != "form" or column["kind"] == "number"):
            column[key] = check(wanted)


def _aligned(value: object) -> str:
    word = "centre" if value == "center" else value
    if word not in {"left", "right", "centre"}:
        raise ValueError(f"align is `left`, `right` or `centre`, and not {value!r}")
    return str(word)


def _formed(value: object) -> str:
    if _SPECIFICATION.fullmatch(str(value)):
        return f"'{value}'"
    if not _FORM.fullmatch(str(value)):
        raise ValueError(
            f"no form is called {value!r}; there are: percent, thousands, words, p-value, '2 decimals', or a quoted format"
        )
    return str(value)


def _name_heads(table: Table, heads: Any, told: Words) -> None:
    if heads is None:
        return
    if isinstance(heads, Mapping):
        for name, words in heads.items():
            _column(table, name, "heads")["heads"][-1] = told(words)
        return
    columns = [column for column in table["columns"] if not column["is_index"]]
    if len(heads) == len(table["columns"]):
        columns = table["columns"]
    if isinstance(heads, str) or len(heads) != len(columns):
        raise ValueError(f"heads: this table has {len(columns)} columns, and {len(heads)} heads are given")
    for column, words in beside(columns, heads):
        column["heads"][-1] = told(words)


def _add_unit(column: dict[str, Any], unit: str) -> None:
    head = column["heads"][-1]
    if isinstance(head, dict):
        head["text"] += f" ({unit})"
    else:
        column["heads"][-1] = f"{head} ({unit})"


def _span(table: Table, spans: Mapping[str, Sequence[str]], told: Words) -> None:
    above: dict[str, object] = {}
    for words, names in spans.items():
        said = told(words)
        for name in [names] if isinstance(names, str) else names:
            above[_column(table, name, "spans")["name"]] = said
    for column in table["columns"]:
        column["heads"].insert(0, above.get(column["name"], ""))


def _join_intervals(table: Table, intervals: Mapping[str, tuple[str, str]]) -> None:
    """Low and high ends become part of the cells of the number they belong to."""
    for name, (low, high) in intervals.items():
        column = _column(table, name, "intervals")
        ends = [_column(table, end, "intervals") for end in (low, high)]
        column["cells"] = [
            {"content": cell, "low": first, "high": last}
            for cell, first, last in beside(column["cells"], ends[0]["cells"], ends[1]["cells"])
        ]
        table["columns"] = [other for other in table["columns"] if other not in ends]


def _group(table: Table, name: str) -> None:
    """Rows with the same value in a column come together under it; the column goes."""
    grouping = _column(table, name, "groups")
    values = ["" if cell is None else str(cell) for cell in grouping["cells"]]
    firsts = list(dict.fromkeys(values))
    order = sorted(range(len(values)), key=lambda row: (firsts.index(values[row]), row))
    table["columns"] = [column for column in table["columns"] if column is not grouping]
    for column in table["columns"]:
        column["cells"] = [column["cells"][row] for row in order]
    ordered = [values[row] for row in order]
    table["groups"] = [
        {"row": row, "words": words} for row, words in enumerate(ordered) if not row or ordered[row - 1] != words
    ]
    table["order"] = order


def _note(table: Table, notes: Any, told: Words) -> None:
    """Notes below: plain ones, or called by letters from heads and cells."""
    if notes is None:
        return
    made = table.setdefault("notes", [])
    if not isinstance(notes, Mapping):
        made += [{"words": told(words)} for words in ([notes] if isinstance(notes, str) else notes)]
        return
    called = sum("mark" in note for note in made)
    for number, (place, words) in enumerate(notes.items(), start=called + 1):
        mark = letters(number)
        made.append({"words": told(words), "mark": mark})
        if isinstance(place, tuple):
            row, name = place
            _mark_cell(table, row, name, mark)
        else:
            column = _column(table, place, "notes")
            column["marks"] = _beside(column.get("marks", ""), mark)


def _beside(marks: str, mark: str) -> str:
    """One more mark; a comma tells letters apart, since `ab` is the 28th."""
    return f"{marks},{mark}" if marks[-1:].isalpha() else marks + mark


def _mark_cell(table: Table, row: int, name: object, mark: str) -> None:
    column = _column(table, name, "notes")
    place = table["order"].index(row) if "order" in table and row in table["order"] else row
    if not isinstance(row, int) or not 0 <= place < len(column["cells"]):
        raise ValueError(f"notes: this table has no row {row!r}; rows are counted from 0")
    cell = column["cells"][place]
    rich = cell if isinstance(cell, dict) else {"content": cell}
    column["cells"][place] = {**rich, "marks": _beside(rich.get("marks", ""), mark)}
