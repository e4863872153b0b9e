"""Values of Python in the form in which they go to another language."""

from __future__ import annotations

import datetime
import struct
import sys
from collections.abc import Callable, Mapping, Sequence
from decimal import Decimal
from fractions import Fraction
from typing import Any

from wornpage.session.crossing import CannotCross
from wornpage.session.r.stream import COMPLEX, INTEGER, LOGICAL, MISSING, RAW, REAL
from wornpage.session.r.written import Attributes, Written

_MISSING_REAL = 0x7FF00000000007A2
_EPOCH = datetime.date(1970, 1, 1).toordinal()
_EXACT = 2**53
_NANO = 1_000_000_000


def told(value: object) -> bytes:
    """A value in that form. Raises `CannotCross`."""
    form = _Form()
    form.value(value, "the value")
    return form.stream()


class _Form(Written):
    # --- any value ----------------------------------------------------------------------------

    def value(self, value: Any, what: str) -> None:
        """One value; `what` is what an error calls it."""
        frame = _as_frame(value)
        if frame is not None:
            return self.frame(frame, what)
        pandas = sys.modules.get("pandas")
        if pandas is not None and isinstance(value, pandas.Series):
            return self.named(value, what)
        if pandas is not None and isinstance(value, (pandas.Index, pandas.api.extensions.ExtensionArray)):
            return self.series(pandas.Series(value), what)
        for kinds, tell in _KINDS.items():
            if isinstance(value, kinds):
                return tell(self, value, what)
        return self.other(value, what)

    def mapping(self, value: Mapping[Any, Any], what: str) -> None:
        """A list with names."""
        names = list(value)
        if not all(isinstance(name, str) for name in names):
            raise CannotCross(f"{what} has keys that are no texts")
        self.items(list(value.values()), names, what)

    def time(self, value: object, what: str) -> None:
        """A day, a moment or a length of time."""
        self.series(_pandas(what).Series([value]), what)

    def other(self, value: Any, what: str) -> None:
        """Arrays, columns, and numbers of NumPy."""
        kind = type(value)
        if kind.__module__ == "numpy" and hasattr(value, "dtype"):
            if getattr(value, "ndim", 1) == 0:
                return self.series(_pandas(what).Series([value]), what)
            if value.ndim == 1:
                return self.series(_pandas(what).Series(value), what)
            return self.array(value, what)
        if kind.__module__.startswith("pandas.") and kind.__name__ in {"Timestamp", "Timedelta", "NaTType", "NAType"}:
            return self.series(_pandas(what).Series([value]), what)
        raise CannotCross(f"{what} is a {kind.__name__}, for which other languages have nothing")

    def whole(self, value: int, what: str) -> None:
        """A whole number; one that no number of R holds exactly is refused."""
        if abs(value) < -MISSING:
            return self.vector(INTEGER, 1, struct.pack("<i", value))
        if abs(value) > _EXACT:
            raise CannotCross(f"{what} is a whole number of more than 53 bits, which R cannot hold exactly")
        return self.vector(REAL, 1, struct.pack("<d", value))

    def sequence(self, items: Sequence[Any], what: str) -> None:
        """A list: a vector where all its items are of one kind."""
        known = [item for item in items if item is not None]
        if known and all(isinstance(item, str) for item in known):
            return self.texts(list(items))
        if known and all(isinstance(item, bool) for item in known):
            codes = [MISSING if item is None else int(item) for item in items]
            return self.vector(LOGICAL, len(items), struct.pack(f"<{len(items)}i", *codes))
        if known and all(isinstance(item, (int, float)) and not isinstance(item, bool) for item in known):
            whole = all(isinstance(item, int) for item in known)
            if whole and all(abs(item) < -MISSING for item in known):
                codes = [MISSING if item is None else item for item in items]
                return self.vector(INTEGER, len(items), struct.pack(f"<{len(items)}i", *codes))
            if any(isinstance(item, int) and abs(item) > _EXACT for item in known):
                raise CannotCross(f"{what} has whole numbers of more than 53 bits, which R cannot hold exactly")
            return self.vector(REAL, len(items), b"".join(_real(item) for item in items))
        return self.items(list(items), None, what)

    def items(self, items: list[Any], names: list[str] | None, what: str) -> None:
        """A list, with names or without."""
        self.head_of_list(len(items), names is not None)
        for place, item in enumerate(items):
            self.value(item, f"{what}[{names[place]!r}]" if names is not None else f"{what}[{place}]")
        if names is not None:
            self.attributes({"names": lambda: self.texts(names)})

    def array(self, value: Any, what: str) -> None:
        """An array of two dimensions or more, column after column."""
        if value.dtype.kind not in "bifu":
            raise CannotCross(f"{what} is an array of {value.dtype}, which R has no array for")
        shape = value.shape
        self.column(_pandas(what).Series(value.ravel(order="F")), what, {"dim": lambda: self.ints(list(shape))})

    # --- frames -------------------------------------------------------------------------------

    def frame(self, frame: Any, what: str) -> None:
        """A data frame; an index with a name becomes a column, one of texts the names of its rows."""
        pandas = _pandas(what)
        if frame.columns.nlevels > 1:
            raise CannotCross(f"{what} has heads in several levels, which R has no frames for")
        index = frame.index
        if index.nlevels > 1 or index.name is not None:
            frame = frame.reset_index()
            index = frame.index
        names = [str(name) for name in frame.columns]
        if len(set(names)) < len(names):
            raise CannotCross(f"{what} has two columns of one name")
        self.head_of_list(len(names), has_more=True, is_object=True)
        for place, name in enumerate(names):
            self.series(frame.iloc[:, place], f"the column {name!r}")
        rows = len(frame)
        is_named = not isinstance(index, pandas.RangeIndex) and rows and all(isinstance(one, str) for one in index)
        self.attributes({
            "names": lambda: self.texts(names),
            "class": lambda: self.texts(["data.frame"]),
            "row.names": lambda: self.texts(list(index)) if is_named else self.ints([MISSING, -rows]),
        })  # fmt: skip

    def named(self, series: Any, what: str) -> None:
        """A column by itself; with an index of texts its items have names."""
        if len(series) and all(isinstance(one, str) for one in series.index):
            names = list(series.index)
            return self.column(series, what, {"names": lambda: self.texts(names)})
        return self.series(series, what)

    def series(self, series: Any, what: str) -> None:
        """A column."""
        self.column(series, what, {})

    def column(self, series: Any, what: str, more: Attributes) -> None:
        """A column as a vector of what it holds; `more` is told of it."""
        kind = series.dtype
        name = type(kind).__name__
        if name == "CategoricalDtype":
            return self.factor(series, more)
        if name == "DatetimeTZDtype":
            return self.moments(series.dt.tz_convert("UTC").dt.tz_localize(None), what, str(kind.tz), more)
        letter = getattr(kind, "kind", "O")
        if letter == "M":
            return self.moments(series, what, "", more)
        if letter == "m":
            return self.spans(series, what, more)
        missing = series.isna().to_numpy()
        if letter == "b":
            return self.codes(LOGICAL, series.fillna(False) if missing.any() else series, missing, more)
        if letter in "iu":
            return self.numbers(series, missing, what, more)
        if letter == "f":
            return self.reals(series, missing, more)
        if letter == "c":
            return self.vector(COMPLEX, len(series), series.to_numpy("complex128").tobytes(), more)
        if name in {"PeriodDtype", "IntervalDtype", "SparseDtype"}:
            raise CannotCross(f"{what} holds {kind}, for which R has nothing")
        if name == "StringDtype":
            return self.words(series, more)
        return self.objects(series, missing, what, more)

    def factor(self, series: Any, more: Attributes) -> None:
        import numpy

        levels = [str(one) for one in series.cat.categories]
        codes = series.cat.codes.to_numpy().astype("<i4") + 1
        data = numpy.where(codes == 0, MISSING, codes).astype("<i4").tobytes()
        kinds = ["ordered", "factor"] if series.cat.ordered else ["factor"]
        looks: Attributes = {**more, "levels": lambda: self.texts(levels), "class": lambda: self.texts(kinds)}
        self.vector(INTEGER, len(series), data, looks, is_object=True)

    def codes(self, kind: int, series: Any, missing: Any, more: Attributes) -> None:
        import numpy

        data = numpy.where(
            missing,
            MISSING,
            series.to_numpy(dtype="int32", na_value=0) if missing.any() else series.to_numpy(dtype="int32"),
        )
        self.vector(kind, len(series), data.astype("<i4").tobytes(), more)

    def numbers(self, series: Any, missing: Any, what: str, more: Attributes) -> None:
        """Whole numbers: as such where they fit, else as reals where those hold them exactly."""
        known = series[~missing]
        least, most = (int(known.min()), int(known.max())) if len(known) else (0, 0)
        if least > MISSING and most < -MISSING:
            return self.codes(INTEGER, series.fillna(0) if missing.any() else series, missing, more)
        if max(abs(least), abs(most)) > _EXACT:
            raise CannotCross(f"{what} has whole numbers of more than 53 bits, which R cannot hold exactly")
        return self.reals(series, missing, more)

    def reals(self, series: Any, missing: Any, more: Attributes) -> None:
        """Numbers; what is missing is so in R, and a not-a-number that is told from it stays one."""
        import numpy

        if hasattr(series.array, "_mask"):  # what is missing has a place of its own there
            data = numpy.array(series.array._data, dtype="<f8")
            missing = numpy.asarray(series.array._mask)
        else:
            data = numpy.array(series.to_numpy(dtype="float64", na_value=numpy.nan), dtype="<f8")
        data.view("<u8")[missing] = _MISSING_REAL
        self.vector(REAL, len(series), data.tobytes(), more)

    def moments(self, series: Any, what: str, zone: str, more: Attributes) -> None:
        """Days where all are, else moments: seconds, as far as R's numbers hold them exactly."""
        import numpy

        nanos = series.to_numpy().astype("datetime64[ns]").astype("<i8")
        missing = series.isna().to_numpy()
        day = 86_400 * _NANO
        if not zone and not (nanos[~missing] % day).any():
            data = (nanos // day).astype("<f8")
            looks: Attributes = {**more, "class": lambda: self.texts(["Date"])}
        else:
            data = self._seconds(nanos, missing, what)
            looks = {**more, "class": lambda: self.texts(["POSIXct", "POSIXt"])}
            if zone:
                looks["tzone"] = lambda: self.texts([zone])
        data = numpy.array(data, dtype="<f8")
        data.view("<u8")[missing] = _MISSING_REAL
        self.vector(REAL, len(series), data.tobytes(), looks, is_object=True)

    def spans(self, series: Any, what: str, more: Attributes) -> None:
        """Lengths of time, in seconds."""
        nanos = series.to_numpy().astype("timedelta64[ns]").astype("<i8")
        missing = series.isna().to_numpy()
        data = self._seconds(nanos, missing, what)
        data.view("<u8")[missing] = _MISSING_REAL
        looks: Attributes = {**more, "class": lambda: self.texts(["difftime"]), "units": lambda: self.texts(["secs"])}
        self.vector(REAL, len(series), data.tobytes(), looks, is_object=True)

    def _seconds(self, nanos: Any, missing: Any, what: str) -> Any:
        import numpy

        data = numpy.array(
            (nanos // 1000) / 1_000_000, dtype="<f8"
        )  # microseconds are exact as reals, and nanoseconds are not
        again = numpy.round(data[~missing] * 1_000_000).astype("<i8") * 1000
        if (again != nanos[~missing]).any():
            raise CannotCross(f"{what} has times finer than a microsecond, which R does not keep")
        return data

    def objects(self, series: Any, missing: Any, what: str, more: Attributes) -> None:
        """Words, or things that each say what they are."""
        import pandas

        kinds = set(map(type, series[~missing].to_numpy()))
        if not kinds or kinds == {str}:
            return self.words(series, more)
        if kinds <= {bool}:
            return self.codes(LOGICAL, series.astype("boolean").fillna(False), missing, more)
        if kinds <= {int}:
            return self.numbers(series.astype("Int64"), missing, what, more)
        if kinds <= {int, float}:
            return self.reals(series.astype("float64"), missing, more)
        if kinds <= {datetime.date, datetime.datetime, pandas.Timestamp}:
            return self.column(pandas.to_datetime(series), what, more)
        if kinds & {Decimal, Fraction}:
            raise CannotCross(f"{what} holds exact decimals, for which R has nothing: make them floats first")
        names = ", ".join(sorted(kind.__name__ for kind in kinds))
        if more or kinds - {list, dict, str, int, float, bool, tuple}:
            raise CannotCross(f"{what} holds {names}, for which R has nothing")
        return self.items([None if gone else one for one, gone in zip(series, missing)], None, what)

    def words(self, series: Any, more: Attributes) -> None:
        """Words: each different one once, and numbers that point to them."""
        import pandas

        if more or len(series) < 1000:
            return self.texts([None if gone else str(one) for one, gone in zip(series, series.isna())], more)
        codes, different = pandas.factorize(series)
        self.head_of_list(2, has_more=True, is_object=True)
        self.vector(INTEGER, len(codes), (codes.astype("<i4") + 1).tobytes())
        self.texts([str(one) for one in different])
        self.attributes({"names": lambda: self.texts(["codes", "words"]), "class": lambda: self.texts(["worn_words"])})
        return None

    def character(self, text: str | None) -> bytes:
        """One text. Raises `CannotCross`."""
        if text is not None and "\0" in text:
            raise CannotCross("a text with a zero in it, which R cannot hold")
        return super().character(text)


_KINDS: dict[Any, Callable[[_Form, Any, str], None]] = {
    type(None): lambda form, value, what: form.nothing(),
    bool: lambda form, value, what: form.vector(LOGICAL, 1, struct.pack("<i", value)),
    int: _Form.whole,
    float: lambda form, value, what: form.vector(REAL, 1, struct.pack("<d", value)),
    complex: lambda form, value, what: form.vector(COMPLEX, 1, struct.pack("<dd", value.real, value.imag)),
    str: lambda form, value, what: form.texts([value]),
    (bytes, bytearray): lambda form, value, what: form.vector(RAW, len(value), bytes(value)),
    (datetime.date, datetime.timedelta): _Form.time,
    Mapping: _Form.mapping,
    (list, tuple): _Form.sequence,
}
"""How values of plain kinds are told; the first that fits counts."""


def _real(item: float | None) -> bytes:
    return struct.pack("<Q", _MISSING_REAL) if item is None else struct.pack("<d", item)


def _as_frame(value: Any) -> Any:
    """A data frame of any library as one of pandas; None for anything else."""
    pandas = sys.modules.get("pandas")
    if pandas is not None and isinstance(value, pandas.DataFrame):
        return value
    home = type(value).__module__.partition(".")[0]
    if home in {"polars", "pyarrow"} and hasattr(value, "to_pandas") and hasattr(value, "columns"):
        return value.to_pandas()
    return None


def _pandas(what: str) -> Any:
    try:
        import pandas
    except ImportError:
        raise CannotCross(f"{what} needs pandas to go to another language") from None
    return pandas
