"""Given values: what a page declares, and what is chosen for it.

The raw text of a value is kept until its type is known: `007` is a text if the page says so.
"""

from __future__ import annotations

import csv
import datetime
import math
import re
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from wornpage.settings.texts import Checked
from wornpage.tree.columns import table_reader
from wornpage.tree.files import file_text
from wornpage.tree.problem import Problem, near_miss
from wornpage.tree.span import Span

KINDS = ("text", "whole number", "number", "date", "yes/no", "list")
_KEYS = ("default", "type", "one-of", "from", "to", "step", "unit", "title", "help", "required")
_ORDERED = ("whole number", "number", "date")
_NAME = re.compile(r"[A-Za-z][\w-]*$")
_TRUTHS = {"yes": True, "no": False, "true": True, "false": False}
_WHOLE = re.compile(r"[-+]?\d+$")
_NUMBER = re.compile(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?$")
_SCHEMA = {
    "text": "string",
    "whole number": "integer",
    "number": "number",
    "date": "string",
    "yes/no": "boolean",
    "list": "array",
}


def as_written(value: object) -> object:
    """A given value as one would write it: a text, or a list of texts."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    return [as_written(item) for item in value] if isinstance(value, list | tuple) else str(value)


class GivenFault(ValueError):
    """A value that a given cannot have: what is wrong, and what was allowed."""

    def __init__(self, what: str, hint: str = "") -> None:
        super().__init__(what)
        self.what, self.hint = what, hint


class Declared(Struct, frozen=True):
    """One given of a page."""

    name: str
    kind: str
    default: object = None
    required: bool = False
    one_of: tuple[object, ...] = ()
    least: Any = None
    most: Any = None
    step: Any = None
    unit: str = ""
    title: str = ""
    help: str = ""
    span: Span | None = None
    file: str = ""
    """The data file whose column holds the values allowed."""

    def value(self, written: object) -> object:
        """The value that is written, a text or a list of texts. Raises `GivenFault`."""
        if self.kind == "list":
            parts = [part.strip() for part in str(written).split(",")] if str(written).strip() else []
            items = written if isinstance(written, list) else parts
            return [self._chosen(_read(item, "text")) for item in items]
        if isinstance(written, list):
            if len(written) != 1:
                raise GivenFault(
                    f"{self.name} takes one value, and {len(written)} are given.", "Only a list takes several."
                )
            written = written[0]
        return self._bounded(self._chosen(_read(written, self.kind)))

    def _chosen(self, value: object) -> object:
        if self.one_of and value not in self.one_of:
            shown = [_shown(item) for item in self.one_of]
            hint = (
                near_miss(_shown(value), shown) or f"Allowed: {', '.join(shown[:20])}{' …' if len(shown) > 20 else ''}."
            )
            raise GivenFault(f"{self.name} cannot be {_shown(value)!r}.", hint)
        return value

    def _bounded(self, value: object) -> object:
        low, high = self.least, self.most
        if (low is not None and value < low) or (high is not None and value > high):
            ends = " ".join(
                filter(
                    None,
                    (
                        f"from {_shown(low)}" if low is not None else "",
                        f"to {_shown(high)}" if high is not None else "",
                    ),
                )
            )
            raise GivenFault(f"{self.name} cannot be {_shown(value)}.", f"Allowed: {ends}{self._unit()}.")
        if self.step and isinstance(value, int | float):
            base = low or 0
            steps = (value - base) / self.step
            if abs(steps - round(steps)) > 1e-9:
                nearest = base + round(steps) * self.step
                raise GivenFault(
                    f"{self.name} cannot be {_shown(value)}.",
                    f"It goes in steps of {_shown(self.step)}: {_shown(nearest)}?",
                )
        return value

    def _unit(self) -> str:
        return f" {self.unit}" if self.unit else ""

    def schema(self) -> dict[str, object]:
        """The given as JSON Schema."""
        made: dict[str, object] = {"type": _SCHEMA[self.kind]}
        if self.kind == "date":
            made["format"] = "date"
        if self.kind == "list":
            made["items"] = {"type": "string"} | ({"enum": list(self.one_of)} if self.one_of else {})
        elif self.one_of:
            made["enum"] = [_plain(item) for item in self.one_of]
        for key, value in (("minimum", self.least), ("maximum", self.most), ("multipleOf", self.step if not self.least else None),
                           ("title", self.title), ("description", self.help), ("default", self.default)):  # fmt: skip
            if value not in {None, ""} if not isinstance(value, list) else True:
                made[key] = _plain(value)
        return made


def declared_in(front: Checked, folder: Path) -> tuple[dict[str, Declared], list[Problem]]:
    """The givens that a page's front matter declares, and what is wrong with them."""
    found: dict[str, Declared] = {}
    problems: list[Problem] = []
    for name, raw in front.values.get("given", {}).items():
        span = front.key_place("given", name)
        if not _NAME.match(name):
            problems.append(
                Problem(
                    span,
                    f"{name!r} is no name for a given.",
                    "It begins with a letter; letters, digits and `-` follow.",
                )
            )
            continue
        try:
            found[name] = _declared(name, raw, span, folder, front)
        except GivenFault as fault:
            problems.append(Problem(front.place("given", name), fault.what, fault.hint))
        except _Placed as placed:
            problems.append(placed.problem)
    return found, problems


class _Placed(Exception):
    def __init__(self, problem: Problem) -> None:
        super().__init__(problem.what)
        self.problem = problem


def _declared(name: str, raw: Any, span: Span, folder: Path, front: Checked) -> Declared:
    if not _is_mapping(raw):
        kind = _kind_of(raw)
        return Declared(name, kind, _default(name, kind, raw), span=span)
    for key in raw:
        if key not in _KEYS:
            hint = near_miss(key, _KEYS) or f"Known here: {', '.join(_KEYS)}."
            raise _Placed(Problem(front.key_place("given", name, key), f"a given has no {key!r}.", hint))
    kind = _text(raw.get("type")) or _kind_of(raw.get("default", raw.get("from", _first(raw.get("one-of")))))
    if kind not in KINDS:
        hint = near_miss(kind, KINDS) or f"Types: {', '.join(KINDS)}."
        raise _Placed(Problem(front.place("given", name, "type"), f"a given cannot be of the type {kind!r}.", hint))
    item_kind = "text" if kind == "list" else kind
    _check_range(raw, kind)
    made = Declared(
        name=name, kind=kind, one_of=_one_of(raw.get("one-of"), item_kind, folder),
        least=_bound(raw, "from", kind), most=_bound(raw, "to", kind), step=_bound(raw, "step", "number" if kind != "whole number" else kind),
        required=_text(raw.get("required")).lower() in {"yes", "true"}, unit=_text(raw.get("unit")), title=_text(raw.get("title")),
        help=_text(raw.get("help")), span=span,
        file=str(folder / _text(raw["one-of"]["file"])) if _is_mapping(raw.get("one-of")) and "file" in raw["one-of"] else "",
    )  # fmt: skip
    if made.least is not None and made.most is not None and made.least > made.most:
        raise GivenFault(
            f"nothing lies from {_shown(made.least)} to {_shown(made.most)}.", "Write the smaller one after `from:`."
        )
    if made.step is not None and made.step <= 0:
        raise GivenFault(f"a step is more than 0, and this is {_shown(made.step)}.")
    if "default" not in raw:
        return made
    texts = [_text(item) for item in raw["default"]] if isinstance(raw["default"], list) else _text(raw["default"])
    default = made.value(texts)
    return replace(made, default=default)


def _check_range(raw: Mapping[str, object], kind: str) -> None:
    """Only what has an order of its own lies between two ends, and only numbers go in steps."""
    for key, kinds in (("from", _ORDERED), ("to", _ORDERED), ("step", _ORDERED[:2])):
        if key in raw and kind not in kinds:
            what = f"`{key}` has no place here: this given is {'a ' * (kind != 'yes/no')}{kind}."
            raise GivenFault(what, f"It is for: {', '.join(kinds)}. Say so with `type:`.")


def _bound(raw: Mapping[str, object], key: str, kind: str) -> object:
    return (
        _read(_text(raw[key]), kind if kind in {"whole number", "number", "date"} else "number") if key in raw else None
    )


def _one_of(raw: Any, kind: str, folder: Path) -> tuple[object, ...]:
    """The values allowed: a list, or the different values of a column of a data file."""
    if raw is None:
        return ()
    if isinstance(raw, list):
        return tuple(_read(_text(item), kind) for item in raw)
    if _is_mapping(raw) and "file" in raw and "column" in raw:
        return tuple(_read(value, kind) for value in _column(folder / _text(raw["file"]), _text(raw["column"])))
    raise GivenFault(
        "`one-of` is a list, or a column of a file.",
        "Write `one-of: [a, b]` or `one-of: {file: data.csv, column: branch}`.",
    )


def _column(path: Path, name: str) -> list[str]:
    try:
        rows, _ = table_reader(file_text(path))
        if name not in (rows.fieldnames or ()):
            raise GivenFault(f"{path.name} has no column {name!r}.", near_miss(name, rows.fieldnames or ()))
        return list(dict.fromkeys(row[name] for row in rows if row[name]))
    except csv.Error as error:
        raise GivenFault(f"{path.name} is no CSV: {error}.") from None
    except GivenFault:
        raise
    except (OSError, ValueError) as error:
        raise GivenFault(f"{path.name} cannot be read: {getattr(error, 'strerror', None) or error}.") from None


def chosen(
    declared: Mapping[str, Declared], levels: Sequence[tuple[str, Mapping[str, object]]]
) -> tuple[dict[str, object], dict[str, str], list[tuple[str, str, GivenFault]]]:
    """The value of each given and the level it came from, the last level nearest; and what is wrong (level, name, fault).

    A level gives values as written, texts or lists of texts, by name.
    """
    values = {name: one.default for name, one in declared.items()}
    origins = dict.fromkeys(declared, "default")
    faults: list[tuple[str, str, GivenFault]] = []
    for level, written in levels:
        for name, text in written.items():
            if name not in declared:
                hint = near_miss(name, declared) or f"There are: {', '.join(declared) or 'none'}."
                faults.append((level, name, GivenFault(f"this page has no given {name!r}.", hint)))
                continue
            try:
                values[name], origins[name] = declared[name].value(text), level
            except GivenFault as fault:
                faults.append((level, name, fault))
    for name, one in declared.items():
        if one.required and values[name] is None and not any(fault[1] == name for fault in faults):
            faults.append(("", name, missing(name)))
    return values, origins, faults


def missing(name: str) -> GivenFault:
    """What is wrong where a value must be given and is not."""
    return GivenFault(f"{name} must be given.", f"Write `--given {name}=…`.")


# --- values -----------------------------------------------------------------------------------


def _is_mapping(raw: object) -> bool:
    return isinstance(raw, dict) and "raw" not in raw


def _first(raw: object) -> object:
    return raw[0] if isinstance(raw, list) and raw else None


def _text(raw: object) -> str:
    """What is written, whatever YAML made of it."""
    if raw is None:
        return ""
    return str(raw["raw"]) if isinstance(raw, dict) and "raw" in raw else str(raw)


def _kind_of(raw: object) -> str:
    """The type that a plain value has by its looks; a quoted one is a text."""
    if isinstance(raw, list):
        return "list"
    text = _text(raw)
    if not (isinstance(raw, dict) and raw.get("plain")):
        return "text"
    if text.lower() in _TRUTHS:
        return "yes/no"
    if _WHOLE.match(text) and not re.match(r"[-+]?0\d", text):
        return "whole number"
    if _NUMBER.match(text) and not re.match(r"[-+]?0\d", text):
        return "number"
    return "date" if re.fullmatch(r"\d{4}-\d{2}-\d{2}", text) else "text"


def _default(name: str, kind: str, raw: object) -> object:
    texts = [_text(item) for item in raw] if isinstance(raw, list) else _text(raw)
    return Declared(name, kind).value(texts)


def _read(text: object, kind: str) -> object:
    """A value of a type from its text. Raises `GivenFault`."""
    text = str(text).strip()
    match kind:
        case "whole number" if _WHOLE.match(text):
            return _number(text)
        case "number" if _NUMBER.match(text):
            return _number(text)
        case "yes/no" if text.lower() in _TRUTHS:
            return _TRUTHS[text.lower()]
        case "date":
            try:
                return datetime.date.fromisoformat(text)
            except ValueError:
                raise GivenFault(f"{text!r} is no date.", "Write it as 2026-03-01.") from None
        case "text":
            return text
    raise GivenFault(f"{text!r} is no {kind}.", {"yes/no": "Write `yes` or `no`."}.get(kind, ""))


def _number(text: str) -> int | float:
    if len(text) > _LONGEST:
        raise GivenFault(f"a number has at most {_LONGEST} digits here, and this has {len(text):,}.")
    number = int(text) if _WHOLE.match(text) else float(text)
    if isinstance(number, float) and math.isinf(number):
        raise GivenFault(f"{text!r} is larger than any number that can be reckoned with.")
    return number


_LONGEST = 400


def _shown(value: object) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    return value.isoformat() if isinstance(value, datetime.date) else str(value)


def _plain(value: object) -> object:
    return value.isoformat() if isinstance(value, datetime.date) else value
