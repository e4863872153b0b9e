"""The environment every session of a page starts with."""

from __future__ import annotations

import os

FIXED = {
    "PYTHONHASHSEED": "0",
    "PYTHONIOENCODING": "utf-8:backslashreplace",
    "PYTHONUTF8": "1",
    "TZ": "UTC",
    "LC_ALL": "C.UTF-8",
    "MPLBACKEND": "agg",
}
"""What is the same for all, so that the order of sets, dates and sorting do not differ between runs."""
_DROPPED = ("PYTHONSTARTUP", "PYTHONINSPECT", "PYTHONWARNINGS", "LANG", "LANGUAGE")
_THREADS = ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "MKL_NUM_THREADS", "NUMEXPR_MAX_THREADS", "POLARS_MAX_THREADS")


def is_fixed(variable: str) -> bool:
    """Whether a variable is the same in every session, whatever it is outside."""
    return variable in FIXED or variable.startswith(("LC_", "LANG"))


def session_environment(threads: int | None = None) -> dict[str, str]:
    """The environment of a new session; `threads` limits what numerical libraries use."""
    kept = {name: value for name, value in os.environ.items() if name not in _DROPPED and not name.startswith("LC_")}
    limits = {name: str(threads) for name in _THREADS} if threads else {}
    return {**kept, **FIXED, **limits}


def session_variable(name: str, threads: int | None = None) -> str | None:
    """One variable of that environment; None where there is none."""
    if threads and name in _THREADS:
        return str(threads)
    if name in FIXED:
        return FIXED[name]
    return None if name in _DROPPED or name.startswith("LC_") else os.environ.get(name)
