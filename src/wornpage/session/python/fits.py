"""What fitted models offer, whatever their class is.

Asked of a fit: `params` with names (or `model.exog_names`), `bse`, `pvalues`, `conf_int(alpha)`, and for the foot of the
table `nobs`, `rsquared`, `rsquared_adj`, `prsquared`, `fvalue`, `aic`, `bic`, `llf`. SciPy's regression, its tests, a pair of
parameters and their covariances, trained linear models (`coef_`) and models of durations (`params_`) are understood as well.
"""

from __future__ import annotations

import math
from typing import Any

from wornpage.session.fitted import FOOT, Fit, Term
from wornpage.tree.older import beside


def read_fit(fit: object, level: float) -> Fit:
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
    for key in FOOT:
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
    for place, (name, estimate, error) in enumerate(beside(names, estimates, errors)):
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
    made.terms |= {name: Term(_number(value)) for name, value in beside(names, found)}
    return made


def _names(fit: Any) -> list[str]:
    index = getattr(fit.params, "index", None)
    if index is not None and not callable(index):
        return [str(name) for name in index]
    named = getattr(getattr(fit, "model", None), "exog_names", None)
    return [str(name) for name in named] if named else [f"x{number + 1}" for number in range(len(_numbers(fit.params)))]


def _ends(fit: object, level: float) -> tuple[list[float | None], list[float | None]]:
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


def _numbers(values: Any) -> list[float | None]:
    if values is None:
        return []
    listed = values.tolist() if hasattr(values, "tolist") else list(values)
    return [_number(value) for value in listed]


def _number(value: Any) -> float | None:
    if value is None:
        return None
    number = float(value)
    return None if math.isnan(number) else number
