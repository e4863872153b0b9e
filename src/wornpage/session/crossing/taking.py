"""Values of another language as values of Python."""

from __future__ import annotations

import datetime
import math
from array import array
from typing import Any

from wornpage.session.crossing import CannotCross
from wornpage.session.r.plain import attributes
from wornpage.session.r.stream import COMPLEX, INTEGER, LOGICAL, MISSING, RAW, REAL, STRINGS, VECTOR, Node, read
from wornpage.tree.older import beside

_MISSING_BITS = 0x7A2
"""The lower half of what R writes for a missing number; other not-a-numbers have another."""
_ZONELESS = {"", "NA"}


def taken(data: bytes) -> object:
    """The value that was told. Raises `CannotCross`, `ValueError`."""
    return _value(read(data), "the value")


def _value(node: Any, what: str) -> object:
    if node.kind == "nil":
        return None
    told = dict(attributes(node))
    kinds = _texts(told.get("class"))
    if node.kind == VECTOR:
        return _list(node, told, kinds, what)
    if node.kind not in (INTEGER, LOGICAL, REAL, COMPLEX, STRINGS, RAW):
        raise CannotCross(f"{what} is {_called(node)}, for which Python has nothing")
    known = {
        "factor",
        "ordered",
        "Date",
        "POSIXct",
        "POSIXt",
        "difftime",
        "integer64",
        "AsIs",
        "noquote",
        "numeric",
        "integer",
        "table",
        "matrix",
        "array",
    }
    if unknown := [kind for kind in kinds if kind not in known]:
        raise CannotCross(f"{what} is an object of the class {unknown[0]!r}, for which Python has nothing")
    if "dim" in told:
        return _array(node, told, what)
    count = _count(node)
    if "names" in told and count:
        import pandas

        return pandas.Series(_column(node, told, kinds, what), index=_texts(told["names"]))
    if count == 1:
        return _scalar(node, told, kinds, what)
    if node.kind == RAW:
        return bytes(node.data)
    if node.kind == STRINGS:
        return list(node.data)
    column = _column(node, told, kinds, what)
    return column if kinds else _plainest(column)


def _plainest(column: Any) -> object:
    """A vector as an array, or, where something of it is missing that no array has a sign for, as a list."""
    if hasattr(column.array, "_mask"):
        return [None if gone else one for one, gone in zip(column.tolist(), column.isna())]
    return column.to_numpy()


def _scalar(node: Any, told: dict[str, Any], kinds: list[str], what: str) -> object:
    if node.kind == STRINGS:
        return node.data[0]
    if node.kind == RAW:
        return bytes(node.data)
    if not kinds:
        if node.kind in (INTEGER, LOGICAL):
            number = _ints(node)[0]
            return None if number == MISSING else bool(number) if node.kind == LOGICAL else number
        if node.kind == COMPLEX:
            parts = _reals(node)
            return complex(parts[0], parts[1])
        real = _reals(node)[0]
        return None if math.isnan(real) and _is_missing(node)[0] else real
    if "Date" in kinds:
        days = _reals(node)[0] if node.kind == REAL else float(_ints(node)[0])
        if math.isnan(days) or days == MISSING:
            return None
        return datetime.date.fromordinal(int(days) + datetime.date(1970, 1, 1).toordinal())
    import pandas

    one = pandas.Series(_column(node, told, kinds, what)).iloc[0]
    if one is pandas.NaT:
        return None
    return str(one) if "factor" in kinds and not isinstance(one, float) else one


def _list(node: Any, told: dict[str, Any], kinds: list[str], what: str) -> object:
    names = _texts(told.get("names"))
    if "data.frame" in kinds:
        return _frame(node, told, names)
    if kinds == ["worn_words"]:
        return _words(node)
    if kinds not in ([], ["AsIs"], ["list"]):
        raise CannotCross(f"{what} is an object of the class {kinds[0]!r}, for which Python has nothing")
    items = [
        _value(item, f"{what}[{names[at]!r}]" if names else f"{what}[[{at + 1}]]") for at, item in enumerate(node.data)
    ]
    return dict(beside(names, items)) if names else items


def _frame(node: Any, told: dict[str, Any], names: list[str]) -> object:
    import pandas

    columns: dict[str, Any] = {}
    for name, item in beside(names, node.data):
        what, inner = f"the column {name!r}", dict(attributes(item))
        if item.kind == VECTOR and _texts(inner.get("class")) == ["worn_words"]:
            columns[name] = _words(item)
        elif item.kind == VECTOR:
            columns[name] = pandas.Series([_value(one, what) for one in item.data], dtype="object")
        elif "dim" in inner:
            raise CannotCross(f"{what} is a matrix within a frame, for which Python has nothing")
        else:
            columns[name] = _column(item, inner, _texts(inner.get("class")), what)
    rows: Any = told.get("row.names")
    frame = pandas.DataFrame(columns, copy=False)
    if rows is not None and rows.kind == STRINGS:
        frame.index = pandas.Index(rows.data)
    elif not columns and rows is not None:
        frame.index = pandas.RangeIndex(abs(_ints(rows)[1]) if _count(rows) == 2 else _count(rows))
    return frame


def _words(node: Any) -> Any:
    """Words told by numbers that point to them."""
    import numpy
    import pandas

    codes, different = node.data
    numbers = numpy.frombuffer(codes.data, "<i4") - 1
    words = numpy.array([*different.data, None], dtype="object")
    return pandas.Series(words[numpy.where(numbers < 0, len(words) - 1, numbers)], dtype=_text_type(pandas))


def _column(node: Any, told: dict[str, Any], kinds: list[str], what: str) -> Any:
    """A vector as a column of pandas."""
    import numpy
    import pandas

    if node.kind == STRINGS:
        return pandas.Series(node.data, dtype=_text_type(pandas))
    if node.kind == RAW:
        return pandas.Series(numpy.frombuffer(node.data, "u1"))
    if node.kind == COMPLEX:
        return pandas.Series(numpy.frombuffer(node.data, "<c16").copy())
    if "factor" in kinds:
        codes = numpy.frombuffer(node.data, "<i4")
        levels = pandas.Index(_texts(told.get("levels")), dtype=_text_type(pandas))
        made = pandas.Categorical.from_codes(
            numpy.where(codes == MISSING, 0, codes) - 1, levels, ordered="ordered" in kinds
        )
        return pandas.Series(made)
    if node.kind in (INTEGER, LOGICAL) and not kinds:
        numbers = numpy.frombuffer(node.data, "<i4")
        missing = numbers == MISSING
        values = numbers != 0 if node.kind == LOGICAL else numbers.astype("int64")
        if not missing.any():
            return pandas.Series(values)
        make: Any = pandas.arrays.BooleanArray if node.kind == LOGICAL else pandas.arrays.IntegerArray
        return pandas.Series(make(numpy.where(missing, values.dtype.type(0), values), missing))
    if "integer64" in kinds:
        numbers = numpy.frombuffer(node.data, "<i8")
        missing = numbers == -(2**63)
        return (
            pandas.Series(pandas.arrays.IntegerArray(numbers.copy(), missing))
            if missing.any()
            else pandas.Series(numbers.copy())
        )
    reals = numpy.frombuffer(node.data, "<f8") if node.kind == REAL else _as_reals(numpy.frombuffer(node.data, "<i4"))
    if "Date" in kinds:
        return _moments(_times(reals, 86_400), "", pandas)
    if "POSIXct" in kinds:
        return _moments(reals, next(iter(_texts(told.get("tzone"))), ""), pandas)
    if "difftime" in kinds:
        unit = {"secs": 1, "mins": 60, "hours": 3600, "days": 86_400, "weeks": 604_800}[_texts(told["units"])[0]]
        return pandas.Series(
            _nanos(_times(reals, unit)).astype("timedelta64[ns]").astype(f"timedelta64[{_unit(pandas)}]")
        )
    nan = numpy.isnan(reals)
    missing = nan & ((reals.view("<u8") & 0xFFFFFFFF) == _MISSING_BITS)
    if missing.any() and (nan & ~missing).any():  # both: then they must be told apart
        return pandas.Series(pandas.arrays.FloatingArray(reals.copy(), missing))
    return pandas.Series(numpy.where(nan, numpy.nan, reals))


def _moments(seconds: Any, zone: str, pandas: Any) -> Any:
    made = pandas.Series(_nanos(seconds).astype("datetime64[ns]").astype(f"datetime64[{_unit(pandas)}]"))
    return made if zone in _ZONELESS else made.dt.tz_localize("UTC").dt.tz_convert(zone)


def _nanos(seconds: Any) -> Any:
    """Whole nanoseconds, to the microsecond that such numbers hold; the smallest stands for none."""
    import numpy

    gone = numpy.isnan(seconds)
    found = numpy.round(numpy.where(gone, 0.0, seconds) * 1_000_000).astype("<i8") * 1000
    return numpy.where(gone, numpy.int64(-(2**63)), found)


def _times(reals: Any, by: int) -> Any:
    import numpy

    with numpy.errstate(invalid="ignore"):
        return reals * by


def _as_reals(numbers: Any) -> Any:
    import numpy

    return numpy.where(numbers == MISSING, numpy.nan, numbers.astype("<f8"))


def _array(node: Any, told: dict[str, Any], what: str) -> object:
    """An array, or, where its rows and columns have names, a frame."""
    import numpy
    import pandas

    shape = _ints(told["dim"])
    flat = _column(node, {}, [], what).to_numpy()
    made = numpy.asarray(flat).reshape(shape, order="F")
    labels = told.get("dimnames")
    if labels is None or len(shape) > 2:
        return made
    names = [_texts(one) or None for one in labels.data]
    if len(shape) == 1:
        return pandas.Series(made, index=names[0])
    return pandas.DataFrame(made, index=names[0], columns=names[1])


def _text_type(pandas: Any) -> str:
    """What a column of words is, as this version of pandas makes them."""
    return "str" if int(pandas.__version__.partition(".")[0]) >= 3 else "object"


def _unit(pandas: Any) -> str:
    """How fine times are, as this version of pandas makes them."""
    return "us" if int(pandas.__version__.partition(".")[0]) >= 3 else "ns"


def _texts(node: Any) -> list[str]:
    if not isinstance(node, Node) or node.kind != STRINGS:
        return []
    found: Any = node.data
    return [text or "" for text in found]


def _ints(node: Any) -> list[int]:
    if node.kind == REAL:
        return [int(number) for number in _reals(node)]
    numbers = array("i")
    numbers.frombytes(node.data)
    return numbers.tolist()


def _reals(node: Any) -> list[float]:
    numbers = array("d")
    numbers.frombytes(node.data)
    return numbers.tolist()


def _is_missing(node: Any) -> list[bool]:
    bits = array("I")
    bits.frombytes(node.data)
    return [low == _MISSING_BITS for low in bits[::2]]


def _count(node: Any) -> int:
    if node.kind == STRINGS:
        return len(node.data)
    return len(node.data) // {INTEGER: 4, LOGICAL: 4, REAL: 8, COMPLEX: 16, RAW: 1}[node.kind]


def _called(node: Any) -> str:
    return (
        {3: "a function", 4: "an environment", 6: "a call", 1: "a name", 25: "an S4 object", 22: "a pointer"}.get(
            node.kind, "something"
        )
        if isinstance(node.kind, int)
        else "something"
    )
