"""Values in sentences: what a value mark finds, as plain data."""

from __future__ import annotations

import datetime
import re
import sys
from collections.abc import Callable
from decimal import Decimal
from typing import Any

from wornpage.tree.older import most_digits

_FORMULA = re.compile(r"\$\$([^$]+)\$\$|\$([^$]+)\$|\\\[(.+)\\\]", re.DOTALL)
_ADDRESS = re.compile(r" at 0x[0-9a-fA-F]+")


def without_addresses(text: str) -> str:
    """`text` without the memory addresses that would differ from run to run."""
    return _ADDRESS.sub("", text)


def written(value: object) -> str:
    """What a value writes of itself; NumPy's numbers as the numbers that they are, also within lists and the like."""
    numpy = sys.modules.get("numpy")
    if numpy is None or int(numpy.__version__.partition(".")[0]) < 2:
        return without_addresses(repr(value))
    with numpy.printoptions(legacy="1.25"):  # before that version their kind was not written with them
        return without_addresses(repr(value))


def scalar(value: object, form: str) -> dict[str, object]:
    """A value as `{type, value}`; with a format specification, as the text that it makes."""
    if type(value).__name__ in {"NAType", "NaTType"}:  # the latter says that it is a moment
        return {"type": "missing", "value": None}
    value = _in_plain_time(value)
    if form:
        return {"type": "text", "value": format(value, form)}
    if hasattr(value, "item") and getattr(value, "ndim", 1) == 0 and callable(value.item):
        value = value.item()  # a NumPy scalar: the Python one it stands for
    if value is None:
        return {"type": "missing", "value": None}
    for kind, (name, told) in _PLAIN.items():
        if isinstance(value, kind):
            return {"type": name, "value": told(value)}
    text, number, formula = without_addresses(str(value)), _as_number(value), formula_of(value)
    if number or formula:
        return {"type": "faces", "value": {"text": text, "number": number, "formula": formula}}
    return {"type": "text", "value": text}


def writable(number: int) -> int:
    """A whole number that can be written in digits. Raises `ValueError` for one that Python writes for nobody."""
    most = most_digits()
    if most and number.bit_length() > most * 3.3219:
        raise ValueError(f"a whole number of more than {most:,} digits cannot be written")
    return number


_PLAIN: dict[type, tuple[str, Callable[[Any], object]]] = {
    bool: ("truth", bool),
    int: ("whole", lambda value: writable(int(value))),
    float: ("number", float),
    str: ("text", str),
    datetime.datetime: ("moment", lambda value: value.isoformat()),
    datetime.date: ("date", lambda value: value.isoformat()),
}
"""Values of plain kinds, and what is told of them; the first that fits counts."""


def _in_plain_time(value: Any) -> object:
    """A moment or a length of time of NumPy's as Python's own, where that says the same; else, and for all other values, as it is."""
    kind = type(value).__name__
    if type(value).__module__ != "numpy" or kind not in {"datetime64", "timedelta64"}:
        return value
    if str(value) == "NaT":
        return None
    coarse = value.astype(f"{kind}[us]")
    plain = coarse.item() if coarse == value else None
    return plain if isinstance(plain, (datetime.date, datetime.timedelta)) else str(value)


def _as_number(value: object) -> str:
    """A number of a kind of its own, such as a decimal, a fraction or an exact root, in digits; empty for what is none."""
    if isinstance(value, Decimal):
        return "nan" if value.is_nan() else str(value)
    if not hasattr(type(value), "__float__") or hasattr(type(value), "__len__"):
        return ""
    try:
        return repr(float(value))  # type: ignore[arg-type]
    except Exception:  # whatever a library says that is no number
        return ""


def called(value: object, name: str) -> object:
    """What a value gives when it is asked by one of its methods; None for none, and for classes."""
    method = None if isinstance(value, type) else getattr(value, name, None)
    return method() if callable(method) else None


def formula_of(value: object) -> str:
    """What a value writes of itself in LaTeX notation, without the signs around it; empty where that is no formula alone."""
    made = called(value, "_repr_latex_")
    match = _FORMULA.fullmatch(made.strip()) if isinstance(made, str) else None
    return " ".join((match[1] or match[2] or match[3]).replace("\\displaystyle", " ").split()) if match else ""
