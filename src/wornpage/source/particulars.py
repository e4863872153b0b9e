"""What the front matter says of authors, keywords and the date, value by value, with where each is written.

Understood are texts in one line, plain or in quotation marks without escapes; others are not listed, so that nothing is changed in them.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

from msgspec import Struct

from wornpage.source.heads import is_quoted_for
from wornpage.source.text import front_matter_of

Path = tuple[str | int, ...]
_KEYS = ("authors", "date", "keywords", "running-title")
_OF_PERSON = ("name", "affiliation", "email")
_NUMBER = re.compile(r"[-+]?(\d+\.?\d*|\.\d+)([eE][-+]?\d+)?|0[xo][0-9a-fA-F]+|[-+]?\.(inf|nan)", re.IGNORECASE)


class Value(Struct, frozen=True):
    """One text."""

    path: Path
    """Such as `("authors", 0, "name")`; of an author who is no more than a name, `("authors", 0)`."""
    text: str
    start: int
    end: int
    """In the page, quotation marks with it."""
    in_flow: bool
    """Whether it stands in brackets, where commas part texts."""

    def written(self, text: str) -> str:
        """Another text as it is written here."""
        return scalar(text, self.in_flow)


class Row(Struct, frozen=True):
    """A list of them."""

    path: Path
    items: tuple[tuple[int, int], ...]
    """Where each is written, without the dash before it."""
    in_flow: bool


class Particulars(Struct, frozen=True):
    """All that is understood."""

    values: tuple[Value, ...] = ()
    rows: tuple[Row, ...] = ()

    def texts(self) -> dict[Path, str]:
        """The texts by their paths."""
        return {value.path: value.text for value in self.values}


def scalar(text: str, in_flow: bool) -> str:
    """A text as YAML, in quotation marks where it must be."""
    if not is_quoted_for(text) and not (in_flow and any(sign in text for sign in ",[]{}")) and not _is_other(text):
        return text
    if "'" not in text:
        return f"'{text}'"
    return '"' + text.replace("\\", "\\\\").replace('"', '\\"') + '"'


def _is_other(text: str) -> bool:
    """Whether YAML takes a text for something else."""
    return text.lower() in {"yes", "no", "true", "false", "null", "~", ""} or _NUMBER.fullmatch(text) is not None


def particulars_of(text: str) -> Particulars:
    """Those of a page; none where its front matter is no YAML."""
    from ruamel.yaml import YAML
    from ruamel.yaml.error import YAMLError

    front, _, problems = front_matter_of(text, "")
    if problems or not front.text.strip():
        return Particulars()
    start = sum(len(line) + 1 for line in text.split("\n")[: front.first_line - 1])
    try:
        root: Any = YAML(typ="safe", pure=True).compose(front.text)
    except YAMLError:
        return Particulars()
    if getattr(root, "id", "") != "mapping":
        return Particulars()
    found = list(_Finder(text, start).of(root))
    return Particulars(
        tuple(one for one in found if isinstance(one, Value)), tuple(one for one in found if isinstance(one, Row))
    )


class _Finder:
    """Goes through the YAML of one page."""

    def __init__(self, text: str, start: int) -> None:
        self.text, self.start = text, start

    def of(self, root: Any) -> Iterator[Value | Row]:
        for key, node in root.value:
            if key.value in _KEYS:
                yield from self.node(node, (key.value,), in_flow=False)

    def node(self, node: Any, path: Path, in_flow: bool) -> Iterator[Value | Row]:
        """What is at a path."""
        flows = in_flow or bool(getattr(node, "flow_style", False))
        if node.id == "scalar":
            start, end = self.range_of(node)
            if self.is_plain(node.value, self.text[start:end]):
                yield Value(path, node.value, start, end, in_flow)
        elif node.id == "sequence":
            yield Row(path, tuple(self.range_of(one) for one in node.value), flows)
            for place, one in enumerate(node.value):
                yield from self.node(one, (*path, place), flows)
        elif node.id == "mapping" and path[0] == "authors":
            for key, one in node.value:
                if key.value in _OF_PERSON:
                    yield from self.node(one, (*path, key.value), flows)

    def range_of(self, node: Any) -> tuple[int, int]:
        """Where something is written: of a block, to the end of the last text in it."""
        begin = node.start_mark.index + self.start
        inner = node.value if node.id != "scalar" and not node.flow_style else ()
        ends = [self.range_of(one)[1] for each in inner for one in (each if isinstance(each, tuple) else (each,))]
        return begin, max(ends, default=node.end_mark.index + self.start)

    def is_plain(self, value: str, raw: str) -> bool:
        return raw != "" and raw in {value, f"'{value}'", f'"{value}"'} and "\n" not in raw and "''" not in raw[1:-1]
