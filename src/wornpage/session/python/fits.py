"""`page.model`: fitted models as tables, by what they offer and not by their class.

Asked of a fit: `params` with names (or `model.exog_names`), `bse`, `pvalues`, `conf_int(alpha)`, and for the foot of the
table `nobs`, `rsquared`, `rsquared_adj`, `prsquared`, `fvalue`, `aic`, `bic`, `llf`. SciPy's regression, its tests, a pair of
parameters and their covariances, trained linear models (`coef_`) and models of durations (`params_`) are understood as well.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

Table = dict[str, Any]
Number = float | None
_FOOT = ("nobs", "df", "rsquared", "rsquared_adj", "prsquared", "fvalue", "aic", "bic", "llf")
_PLACES = {"nobs": 0, "df": 1, "fvalue": 2, "aic": 1, "bic": 1, "llf": 1}
_STARS = ((0.001, "***"), (0.01, "**"), (0.05, "*"))


@dataclass
class Term:
    """One coefficient."""

    estimate: Number
    error: Number = None
    p: Number = None
    low: Number = None
    high: Number = None


@dataclass
class Fit:
    """What is shown of one model."""

    terms: dict[str, Term] = field(default_factory=dict)
    foot: dict[str, Number] = field(default_factory=dict)


def fitted(
    fits: Sequence[object], heads: list[Any] | None, terms: Mapping[str, object], *, leave_out: Sequence[str], interval: float | None,
    stars: bool, decimals: int,
) -> Table:  # fmt: skip
    """The table of one fit with a column each for estimate, error and p-value, or of several side by side."""
    if not fits:
        raise ValueError("page.model wants at least one fitted model")
    if interval is not None and not 0 < interval < 1:
        raise ValueError(f"interval is the level of confidence, such as 0.95, and not {interval!r}")
    read = [_read(fit, interval or 0.95) for fit in fits]
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
    foot = [(key, value) for key in _FOOT if (value := fit.foot.get(key)) is not None]
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
    keys = [key for key in _FOOT if any(fit.foot.get(key) is not None for fit in fits)]
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
    for column, fit in zip(table["columns"][1:] if several else table["columns"][1:2], fits, strict=True):
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


def _value(number: Number, decimals: int) -> dict[str, object]:
    return {"content": number, "decimals": decimals}


def _foot_value(key: str, value: Number) -> dict[str, object]:
    if value is None:
        return {"content": ""}
    whole = key == "nobs"
    return {"content": int(value) if whole else value, "decimals": _PLACES.get(key, 3)}


def _p(value: Number) -> object:
    return {"content": ""} if value is None else value


# --- reading ----------------------------------------------------------------------------------


def _read(fit: object, level: float) -> Fit:
    """One fit. Raises `ValueError` if it offers nothing that can be shown."""
    if hasattr(fit, "slope") and hasattr(fit, "intercept"):
        return _line(fit)
    if isinstance(fit, tuple) and len(fit) >= 2 and not hasattr(fit, "_fields") and hasattr(fit[1], "diagonal"):
        return _curve(fit[0], fit[1])
    if hasattr(fit, "params"):
        return _regression(fit, level)
    if hasattr(fit, "params_") and hasattr(fit, "standard_errors_"):
        return _survival(fit, level)
    if hasattr(fit, "coef_") and hasattr(fit, "intercept_"):
        return _learned(fit)
    if hasattr(fit, "statistic") and hasattr(fit, "pvalue"):
        return _test(fit, level)
    if hasattr(fit, "x") and hasattr(fit, "success"):
        return _curve(fit.x, None)
    if isinstance(fit, str):
        raise ValueError(f"page.model shows fits, and this is a text: did you mean caption={fit[:60]!r}?")
    raise ValueError(f"page.model cannot read {type(fit).__name__}: it has neither `params` nor anything else it knows")


def _regression(fit: Any, level: float) -> Fit:
    names = _names(fit)
    estimates = _numbers(fit.params)
    errors, ps = _numbers(getattr(fit, "bse", None)), _numbers(getattr(fit, "pvalues", None))
    lows, highs = _ends(fit, level)
    made = Fit()
    for place, name in enumerate(names):
        parts = [column[place] if place < len(column) else None for column in (estimates, errors, ps, lows, highs)]
        made.terms[name] = Term(*parts)
    for key in _FOOT:
        value = getattr(fit, key, None)
        if value is not None and not callable(value):
            made.foot[key] = _number(value)
    return made


def _survival(fit: Any, level: float) -> Fit:
    """A model of how long something lasts: its names end in a low line."""
    summary = getattr(fit, "summary", None)
    ps = _numbers(summary["p"]) if summary is not None and "p" in summary else []
    estimates, errors = _numbers(fit.params_), _numbers(fit.standard_errors_)
    names = [_joined(name) for name in fit.params_.index]
    made = Fit()
    far = _quantile(0.5 + level / 2)
    for place, (name, estimate, error) in enumerate(zip(names, estimates, errors, strict=True)):
        ends = (None, None) if estimate is None or error is None else (estimate - far * error, estimate + far * error)
        made.terms[name] = Term(estimate, error, ps[place] if place < len(ps) else None, *ends)
    made.foot["llf"] = _number(getattr(fit, "log_likelihood_", None))
    return made


def _joined(name: object) -> str:
    return ": ".join(map(str, name)) if isinstance(name, tuple) else str(name)


def _quantile(share: float) -> float:
    """Of the normal distribution."""
    from statistics import NormalDist

    return NormalDist().inv_cdf(share)


def _learned(fit: Any) -> Fit:
    """A linear model that was trained: coefficients, without anything about how sure they are."""
    rows: list[Any] = fit.coef_.tolist() if hasattr(fit.coef_, "tolist") else list(fit.coef_)
    several = bool(rows) and isinstance(rows[0], list)
    if several and len(rows) > 1:
        raise ValueError("page.model shows the coefficients of one outcome, and this model has several")
    found = rows[0] if several else rows
    names = [str(name) for name in getattr(fit, "feature_names_in_", ())] or [f"x{n + 1}" for n in range(len(found))]
    starts = _numbers(fit.intercept_) if hasattr(fit.intercept_, "__len__") else [_number(fit.intercept_)]
    made = Fit({"intercept": Term(starts[0])} if starts and starts[0] is not None else {})
    made.terms |= {name: Term(_number(value)) for name, value in zip(names, found, strict=True)}
    return made


def _names(fit: Any) -> list[str]:
    index = getattr(fit.params, "index", None)
    if index is not None and not callable(index):
        return [str(name) for name in index]
    named = getattr(getattr(fit, "model", None), "exog_names", None)
    return [str(name) for name in named] if named else [f"x{number + 1}" for number in range(len(_numbers(fit.params)))]


def _ends(fit: object, level: float) -> tuple[list[Number], list[Number]]:
    ask = getattr(fit, "conf_int", None)
    if not callable(ask):
        return [], []
    found = ask(1 - level)
    rows = found.to_numpy().tolist() if hasattr(found, "to_numpy") else [list(row) for row in found]
    return [_number(row[0]) for row in rows], [_number(row[1]) for row in rows]


def _line(fit: Any) -> Fit:
    """A straight line through points."""
    made = Fit({"intercept": Term(_number(fit.intercept), _number(getattr(fit, "intercept_stderr", None)))})
    made.terms["slope"] = Term(
        _number(fit.slope), _number(getattr(fit, "stderr", None)), _number(getattr(fit, "pvalue", None))
    )
    if getattr(fit, "rvalue", None) is not None:
        made.foot["rsquared"] = _number(fit.rvalue**2)
    return made


def _curve(values: object, covariances: Any) -> Fit:
    """Parameters, and their errors from the diagonal of their covariances."""
    errors = [] if covariances is None else [math.sqrt(v) if v >= 0 else None for v in covariances.diagonal().tolist()]
    found = _numbers(values)
    return Fit({f"p{n + 1}": Term(value, errors[n] if errors else None) for n, value in enumerate(found)})


def _test(fit: Any, level: float) -> Fit:
    """A test: its statistic, with the p-value and, where there is one, the interval of what it tests."""
    term = Term(_number(fit.statistic), p=_number(fit.pvalue))
    made = Fit({"statistic": term})
    ask = getattr(fit, "confidence_interval", None)
    if callable(ask):
        ends = ask(level)
        made.terms["difference"] = Term(None, None, None, _number(ends.low), _number(ends.high))
    if getattr(fit, "df", None) is not None and not callable(fit.df):
        made.foot["df"] = _number(fit.df)
    return made


def _numbers(values: Any) -> list[Number]:
    if values is None:
        return []
    listed = values.tolist() if hasattr(values, "tolist") else list(values)
    return [_number(value) for value in listed]


def _number(value: Any) -> Number:
    if value is None:
        return None
    number = float(value)
    return None if math.isnan(number) else number
