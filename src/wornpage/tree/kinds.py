"""Kinds of settings: how each is written and what it means. Shared by all levels."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Annotated, Any

from msgspec import Struct


class Read(Struct, frozen=True):
    """How what is written for a setting becomes its value; the function raises `ValueError` with what to write."""

    function: Callable[[object], object]
    written: Callable[[dict[str, object]], dict[str, object]] | None = None
    """The JSON Schema of what may be written, from that of the value; the same if None."""

    def __get_pydantic_json_schema__(self, schema: object, handler: Callable[[object], Any]) -> object:
        value = handler(schema)
        return self.written(value) if self.written else value

    def __get_pydantic_core_schema__(self, source: object, handler: Callable[[object], Any]) -> object:
        from pydantic_core import core_schema

        return core_schema.no_info_before_validator_function(self.function, handler(source))


def _as(**schema: object) -> Callable[[dict[str, object]], dict[str, object]]:
    """This JSON Schema, whatever that of the value is."""
    return lambda value: schema


def _or(*schemas: dict[str, object]) -> Callable[[dict[str, object]], dict[str, object]]:
    """The JSON Schema of the value, or one of these."""
    return lambda value: {"anyOf": [*schemas, value]}


def or_one(value: dict[str, object]) -> dict[str, object]:
    """A list, or one of what it lists."""
    return {"anyOf": [value["items"], value]}


class Between(Struct, frozen=True):
    """The least and the largest number a setting takes."""

    least: int
    most: int | None = None

    def __get_pydantic_core_schema__(self, source: object, handler: Callable[[object], Any]) -> object:
        from pydantic_core import core_schema

        return core_schema.no_info_after_validator_function(self._checked, handler(source))

    def __get_pydantic_json_schema__(self, schema: object, handler: Callable[[object], Any]) -> object:
        bounds = {"minimum": self.least} | ({} if self.most is None else {"maximum": self.most})
        return handler(schema) | bounds

    def _checked(self, value: int) -> int:
        if value < self.least or (self.most is not None and value > self.most):
            upper = "" if self.most is None else f" up to {self.most}"
            raise ValueError(f"write a number from {self.least}{upper}")
        return value


class Files:
    """Marks a setting that names files: what a project's `worn.yaml` names lies beside it, not beside the page."""


LENGTH = re.compile(r"^(\d+(?:\.\d+)?|\.\d+)\s*(cm|mm|in|pt)$")
_CENTIMETRES = {"cm": 1.0, "mm": 0.1, "in": 2.54, "pt": 2.54 / 72}
_DURATION = re.compile(r"^(\d+(?:\.\d+)?)\s*(s|min|h)$")
_SECONDS = {"s": 1.0, "min": 60.0, "h": 3600.0}
_TRUTHS = {"yes": True, "no": False, "true": True, "false": False}


def _truth(value: object) -> bool:
    if isinstance(value, bool):
        return value
    if isinstance(value, str) and value.lower() in _TRUTHS:
        return _TRUTHS[value.lower()]
    raise ValueError("write `yes` or `no`")


def read_length(value: object) -> float:
    """A length in centimetres."""
    match = LENGTH.match(str(value).strip())
    if not match:
        unit = f"; did you mean `{value}cm`" if re.match(r"[\d.]+$", str(value)) else ""
        raise ValueError(f"write a length such as `16cm`, `80mm` or `4in`{unit}")
    centimetres = float(match[1]) * _CENTIMETRES[match[2]]
    if not 0 < centimetres <= 200:
        raise ValueError("a length lies above 0 and up to 200cm")
    return centimetres


def _duration(value: object) -> float | None:
    if value in {None, "none"}:
        return None
    match = _DURATION.match(str(value).strip())
    if not match or float(match[1]) <= 0:
        raise ValueError("write a time such as `90s`, `5min` or `2h`, or `none`")
    return float(match[1]) * _SECONDS[match[2]]


def read_percentage(value: object) -> float:
    """A percentage as a factor."""
    match = re.match(r"(\d+(?:\.\d+)?)\s*%$", str(value).strip())
    if not match or not 0 < float(match[1]) <= 1000:
        raise ValueError("write a percentage such as `80%`")
    return float(match[1]) / 100


def _line_turns(value: object) -> tuple[tuple[int, ...], ...]:
    """Lines to pick out, turn by turn."""
    return tuple(_line_set(turn) for turn in re.split(r"\s+then\s+", str(value).strip()))


def _line_set(value: str) -> tuple[int, ...]:
    if value == "all":
        return ()
    lines: set[int] = set()
    for part in value.split(","):
        match = re.match(r"\s*(\d+)(?:\s*-\s*(\d+))?\s*$", part)
        first, last = (int(match[1]), int(match[2] or match[1])) if match else (0, 0)
        if not 0 < first <= last <= first + 100_000:
            raise ValueError("write line numbers such as `3,7-9`, or `3 then 7-9` for slides")
        lines.update(range(first, last + 1))
    return tuple(sorted(lines))


def _align(value: object) -> str:
    word = "centre" if value == "center" else value
    if word not in {"left", "right", "centre"}:
        raise ValueError("write `left`, `centre` or `right`")
    return str(word)


def _whole(value: Any) -> int:
    if isinstance(value, bool) or not re.match(r"-?\d+$", str(value).strip()):
        raise ValueError("write a whole number")
    return int(value)


def _words(value: object) -> str:
    if isinstance(value, dict | list) or value is None:
        raise ValueError("write a text here, in quotes if need be")
    return str(value)


def _several(value: object) -> list[object]:
    """A list; a lone text is split at its commas."""
    if isinstance(value, str):
        return [part.strip() for part in value.split(",") if part.strip()]
    return value if isinstance(value, list) else [value]


def alone(value: object) -> list[object]:
    """A list as it is; anything else as a list of one."""
    return value if isinstance(value, list) else [value]


def read_size(value: object) -> int:
    """A size in bytes."""
    match = re.match(r"(\d+(?:\.\d+)?)\s*(MB|GB|TB)$", str(value).strip(), re.IGNORECASE)
    if not match or float(match[1]) <= 0:
        raise ValueError("write a size such as `500MB` or `5GB`")
    return int(float(match[1]) * {"MB": 10**6, "GB": 10**9, "TB": 10**12}[match[2].upper()])


def _macro_name(value: object) -> str:
    if not re.fullmatch(r"\\?[A-Za-z]+", str(value)):
        raise ValueError("a macro's name is made of letters")
    return str(value).removeprefix("\\")


_TEXT = {"type": "string"}
_SCALAR = {"type": ["string", "number", "boolean"]}

MacroName = Annotated[str, Read(_macro_name)]
Truth = Annotated[bool, Read(_truth, _or({"enum": ["yes", "no"]}))]
Length = Annotated[float, Read(read_length, _as(type="string", pattern=LENGTH.pattern))]
"""Centimetres."""
Duration = Annotated[
    float | None,
    Read(_duration, _as(anyOf=[{"type": "string", "pattern": _DURATION.pattern}, {"enum": ["none", None]}])),
]
"""Seconds; None for no limit."""
Percentage = Annotated[float, Read(read_percentage, _as(type="string", pattern=r"^\d+(\.\d+)?\s*%$"))]
"""A factor: 0.8 for `80%`."""
LineTurns = Annotated[
    tuple[tuple[int, ...], ...], Read(_line_turns, _as(type=["string", "integer"], pattern=r"^([\d,\s-]|then|all)+$"))
]
"""Line numbers, counted from 1, turn by turn; a turn without any is all of them."""
Align = Annotated[str, Read(_align, _as(enum=["left", "centre", "center", "right"]))]
Size = Annotated[int, Read(read_size, _as(type="string", pattern=r"^\d+(\.\d+)?\s*([MmGgTt][Bb])$"))]
"""Bytes."""
Whole = Annotated[int, Read(_whole)]
Count = Annotated[int, Read(_whole), Between(0)]
Words = Annotated[str, Read(_words, _as(**_SCALAR))]
OneFile = Annotated[str, Read(_words, _as(**_TEXT)), Files()]
SeveralWords = Annotated[tuple[Words, ...], Read(_several, or_one)]
Several = Annotated[tuple[Words, ...], Read(alone, or_one)]
Paths = Annotated[tuple[Words, ...], Read(alone, or_one), Files()]
