"""One text of settings (the front matter, `worn.yaml`, a chunk's header) checked; and remembered once it was right.

What has been found right before is taken from a memory by its text, so that a pressing after a change of prose needs
neither the YAML reader nor the checker.
"""

from __future__ import annotations

from typing import Any, Protocol

import msgspec

from wornpage.settings.models import ChunkOptions
from wornpage.settings.yaml_text import Path, read_yaml
from wornpage.tree.nodes import RawOption
from wornpage.tree.problem import Problem
from wornpage.tree.span import Span


class Memory(Protocol):
    """Where plain data is kept by key between pressings."""

    def get(self, *key: str) -> Any:
        """What was kept; None for nothing."""

    def put(self, value: object, *key: str) -> None:
        """Keep `value`."""


class Checked(msgspec.Struct, frozen=True):
    """What a text sets, by field name; nested where the settings are."""

    values: dict[str, Any]
    places: dict[Path, Span]
    """Where each value stands."""
    keys: dict[Path, Span]
    """Where each key stands."""
    problems: tuple[Problem, ...] = ()

    def place(self, *path: str | int) -> Span:
        """The place of a value, or of the nearest thing around it."""
        at: Path = path
        while at and at not in self.places:
            at = at[:-1]
        return self.places[at]

    def key_place(self, *path: str | int) -> Span:
        """The place of a key, or of the nearest thing around it."""
        return self.keys.get(path) or self.place(*path)


def check_yaml(
    kind: type[msgspec.Struct], text: str, file: str, first_line: int, what: str, memory: Memory | None
) -> Checked:
    """What a YAML text sets. `what` it is, such as `front matter`, is for messages."""
    key = (kind.__name__, text)
    kept = memory.get(*key) if memory is not None else None
    if kept is not None:
        values, places, keys = kept
        return Checked(values, _placed(places, file, first_line), _placed(keys, file, first_line))
    found = _checked_yaml(kind, text, file, first_line, what)
    if memory is not None and not found.problems:
        parts = (found.values, _bare(found.places, first_line), _bare(found.keys, first_line))
        memory.put(msgspec.to_builtins(parts), *key)
    return found


def _checked_yaml(kind: type[msgspec.Struct], text: str, file: str, first_line: int, what: str) -> Checked:
    if not text.strip():
        return Checked({}, {(): Span(file, first_line)}, {})
    from wornpage.settings.checking import check

    yaml = read_yaml(text, file, first_line)
    problems = list(yaml.problems)
    data = yaml.data if isinstance(yaml.data, dict) else {}
    if yaml.data is not None and not isinstance(yaml.data, dict):
        problems.append(Problem(yaml.place(()), f"the {what} is no mapping.", "Write it as `key: value`."))
    values, faults = check(kind, data, yaml.place, yaml.key_place, "setting")
    return Checked(values, yaml.places, yaml.keys, (*problems, *faults))


def check_header(
    options: tuple[RawOption, ...], span: Span, memory: Memory | None
) -> tuple[dict[str, object], list[Problem]]:
    """What the options in the header of the chunk at `span` set, and what is wrong with them."""
    if not options:
        return {}, []
    key = tuple(part for option in options for part in (option.key, option.value))
    kept = memory.get("header", *key) if memory is not None else None
    if kept is not None:
        return kept, []
    from wornpage.settings.checking import check

    places: dict[Path, Span] = {(option.key,): option.span for option in options}

    def place(path: Path) -> Span:
        return places.get(path[:1], span)

    values, problems = check(ChunkOptions, {option.key: option.value for option in options}, place, place, "option")
    if memory is not None and not problems:
        memory.put(msgspec.to_builtins(values), "header", *key)
    return values, problems


def _bare(places: dict[Path, Span], first_line: int) -> list[object]:
    return [[list(path), span.line - first_line, span.column] for path, span in places.items()]


def _placed(bare: list[Any], file: str, first_line: int) -> dict[Path, Span]:
    return {tuple(path): Span(file, line + first_line, column) for path, line, column in bare}
