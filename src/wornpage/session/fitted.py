"""Fitted models as tables, whatever language they were fitted in: terms with their errors, and what stands at the foot."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from wornpage.tree.older import beside

Table = dict[str, Any]
FOOT = ("nobs", "df", "rsquared", "rsquared_adj", "prsquared", "fvalue", "aic", "bic", "llf")
_PLACES = {"nobs": 0, "df": 1, "fvalue": 2, "aic": 1, "bic": 1, "llf": 1}
_STARS = ((0.001, "***"), (0.01, "**"), (0.05, "*"))


@dataclass
class Term:
    """One coefficient."""

    estimate: float | None
    error: float | None = None
    p: float | None = None
    low: float | None = None
    high: float | None = None


@dataclass
class Fit:
    """What is shown of one model."""

    terms: dict[str, Term] = field(default_factory=dict)
    foot: dict[str, float | None] = field(default_factory=dict)


def level_of(interval: float | None) -> float:
    """The level of confidence that is asked for, or the usual one. Raises `ValueError` for what is none."""
    if interval is not None and not 0 < interval < 1:
        raise ValueError(f"interval is the level of confidence, such as 0.95, and not {interval!r}")
    return interval or 0.95


def fitted(
    read: Sequence[Fit], heads: list[Any] | None, terms: Mapping[str, object], *, leave_out: Sequence[str], interval: float | None,
    stars: bool, decimals: int,
) -> Table:  # fmt: skip
    """The table of one fit with a column each for estimate, error and p-value, or of several side by side."""
    if not read:
        raise ValueError("page.model wants at least one fitted model")
    read = list(read)
    if heads is not None and len(heads) != len(read):
        raise ValueError(f"{len(read)} models are shown, and {len(heads)} names are given")
    names = [name for name in dict.fromkeys(name for fit in read for name in fit.terms) if name not in set(leave_out)]
    if len(read) == 1 and heads is None:
        table = _single(read[0], names, interval, decimals)
    else:
        table = _several(read, heads, names, interval, decimals)
    index = table["columns"][0]
    index["cells"] = _labels(index["cells"], terms)
    if stars:
        _mark(table, read, names)
    return table


def _labels(cells: list[object], labels: Mapping[str, object]) -> list[object]:
    return [{"content": labels[cell]} if isinstance(cell, str) and cell in labels else cell for cell in cells]


# --- laying out -------------------------------------------------------------------------------


def _single(fit: Fit, names: list[str], interval: float | None, decimals: int) -> Table:
    for name in [name for name in names if _says_nothing(fit.terms[name], interval)]:
        names.remove(name)
    found = [fit.terms[name] for name in names]
    foot = [(key, value) for key in FOOT if (value := fit.foot.get(key)) is not None]
    gap: list[object] = [{"content": ""}] * len(foot)
    estimates: list[object] = [_value(term.estimate, decimals) for term in found]
    made = [
        _text("", [*names, *({"content": {"word": key}} for key, _ in foot)]),
        _column("estimate", [*estimates, *(_foot_value(key, value) for key, value in foot)]),
    ]
    if any(term.error is not None for term in found):
        made.append(_column("error", [*(_value(term.error, decimals) for term in found), *gap]))
    if interval is not None and any(term.low is not None for term in found):
        ends = [{"content": None, "low": term.low, "high": term.high, "decimals": decimals} for term in found]
        head = {"word": f"interval:{100 * interval:g}"}
        made.append({**_column("interval", [*ends, *gap]), "heads": [head]})
    if any(term.p is not None for term in found):
        made.append({**_column("p", [*(_p(term.p) for term in found), *gap]), "form": "p-value"})
    return {"columns": made, "left_out": 0, "foot": len(foot)}


def _says_nothing(term: Term, interval: float | None) -> bool:
    return term.estimate is None and term.error is None and term.p is None and (interval is None or term.low is None)


def _several(
    fits: list[Fit], heads: list[object] | None, names: list[str], interval: float | None, decimals: int
) -> Table:
    """Estimates with the error, or the interval, below each; what a model leaves out stays empty."""
    keys = [key for key in FOOT if any(fit.foot.get(key) is not None for fit in fits)]
    has_second = any(term.error is not None or term.low is not None for fit in fits for term in fit.terms.values())
    labels: list[object] = []
    continued = []
    for name in names:
        labels.append(name)
        if has_second:
            continued.append(len(labels))
            labels.append("")
    made = [_text("", [*labels, *({"content": {"word": key}} for key in keys)])]
    for number, fit in enumerate(fits):
        cells: list[object] = []
        for name in names:
            term = fit.terms.get(name)
            cells.append(_value(term.estimate, decimals) if term else {"content": ""})
            if has_second:
                cells.append(_second(term, interval, decimals))
        cells += [_foot_value(key, fit.foot.get(key)) for key in keys]
        head = heads[number] if heads is not None else f"({number + 1})"
        made.append({"heads": [head], "kind": "number", "cells": cells, "is_index": False, "name": f"({number + 1})"})
    table: Table = {"columns": made, "left_out": 0, "foot": len(keys), "continued": continued}
    if has_second:
        word = "errors below" if interval is None else f"intervals below:{100 * interval:g}"
        table["notes"] = [{"words": {"word": word}}]
    return table


def _second(term: Term | None, interval: float | None, decimals: int) -> object:
    if term is None:
        return {"content": ""}
    if interval is not None and term.low is not None:
        return {"content": None, "low": term.low, "high": term.high, "decimals": decimals}
    if term.error is None:
        return {"content": ""}
    return {"content": term.error, "decimals": decimals, "brackets": True}


def _mark(table: Table, fits: list[Fit], names: list[str]) -> None:
    """Stars after estimates, and the note that says what they mean."""
    step = 2 if table.get("continued") else 1
    several = len(table["columns"]) == len(fits) + 1 and table.get("continued") is not None
    for column, fit in beside(table["columns"][1:] if several else table["columns"][1:2], fits):
        for place, name in enumerate(names):
            term = fit.terms.get(name)
            marks = next((stars for level, stars in _STARS if term and term.p is not None and term.p < level), "")
            if marks:
                column["cells"][place * step] = {**column["cells"][place * step], "marks": marks}
    table.setdefault("notes", []).append({"words": {"word": "stars"}})


def _text(head: str, cells: list[object]) -> dict[str, object]:
    return {"heads": [head], "kind": "text", "cells": cells, "is_index": True}


def _column(word: str, cells: list[object]) -> dict[str, object]:
    return {"heads": [{"word": word}], "kind": "number", "cells": cells, "is_index": False, "name": word}


def _value(number: float | None, decimals: int) -> dict[str, object]:
    return {"content": number, "decimals": decimals}


def _foot_value(key: str, value: float | None) -> dict[str, object]:
    if value is None:
        return {"content": ""}
    whole = key == "nobs"
    return {"content": int(value) if whole else value, "decimals": _PLACES.get(key, 3)}


def _p(value: float | None) -> object:
    return {"content": ""} if value is None else value
