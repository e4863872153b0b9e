"""How documents look: what `document.toml` of a stationery says, over what its base says."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from typing import Any

import msgspec
from msgspec import Struct, field

from wornpage.output.stationery import Stationery
from wornpage.tree.problem import PageError, Problem, near_miss
from wornpage.tree.span import Span

FILE = "document.toml"


class Letters(Struct, frozen=True, forbid_unknown_fields=True, rename="kebab"):
    """Fonts, and sizes in points."""

    font: str = "Cambria"
    heading_font: str = ""
    """Empty for that of the text."""
    code_font: str = "Consolas"
    size: float = 10.5
    headings: tuple[float, ...] = (15.0, 12.0, 10.5)
    """Sizes of the levels; those below the last are as it is."""
    title: float = 22.0
    subtitle: float = 13.0
    author: float = 10.5
    caption: float = 9.0
    table: float = 9.0
    code: float = 8.5
    small: float = 9.0
    """Places of work, dates, keywords, running heads."""
    note: float = 8.5


class Lines(Struct, frozen=True, forbid_unknown_fields=True, rename="kebab"):
    """Paragraphs."""

    height: float = 1.2
    """Lines of text, of single ones."""
    between: float = 6.0
    """Points between paragraphs."""
    first: float = 0.0
    """Centimetres by which the first line of a paragraph that follows another stands in."""
    justified: bool = False
    numbered: bool = False
    """Whether lines are numbered in the margin."""


class Sheets(Struct, frozen=True, forbid_unknown_fields=True, rename="kebab"):
    """Sheets of A4; others have margins in proportion. Lengths in centimetres."""

    top: float = 2.8
    bottom: float = 3.0
    sides: float = 2.5
    columns: int = 1
    gutter: float = 0.7
    title_alone: bool = False
    """Whether the title, and then the abstract, have sheets of their own."""
    running: str = "title"
    """What runs along the head: `title`, or `section` for the section that a sheet is in."""


class Colours(Struct, frozen=True, forbid_unknown_fields=True, rename="kebab"):
    """Six digits each."""

    ink: str = "1D2024"
    soft: str = "5B5F66"
    hair: str = "D8D4CA"
    tint: str = "F5F3ED"
    picked: str = "ECE5CF"
    mark: str = "1C5A63"
    alarm: str = "98321F"
    alarm_tint: str = "FAEEEA"
    notice: str = "6A5312"
    notice_tint: str = "F8F3E2"
    keyword: str = "7A2E5D"
    string: str = "3C6019"
    number: str = "9A4A10"
    constant: str = "9A4A10"
    comment: str = "686B62"
    name: str = "1B4F8A"
    builtin: str = "28606A"


class Looks(Struct, frozen=True, forbid_unknown_fields=True):
    """All of it."""

    letters: Letters = Letters()
    lines: Lines = Lines()
    sheets: Sheets = Sheets()
    colours: Colours = Colours()
    styles: dict[str, str] = field(default_factory=dict)
    """Names that a template has for our styles, by our names."""


def looks_of(stationery: Stationery) -> Looks:
    """The looks that a stationery gives to documents. Raises `PageError` for a file at fault."""
    merged: dict[str, Any] = {}
    texts = stationery.looks.get(FILE, ())
    for text in texts:
        for name, part in _read(text, stationery).items():
            merged[name] = {**merged.get(name, {}), **part} if isinstance(part, dict) else part
    try:
        looks = msgspec.convert(merged, Looks)
    except msgspec.ValidationError as error:
        raise _fault(stationery, texts[-1], str(error)) from None
    _check_colours(looks.colours, stationery, texts)
    return looks


def _read(text: str, stationery: Stationery) -> Mapping[str, Any]:
    try:
        return tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise _fault(stationery, text, f"it is no TOML: {error}.") from None


def _check_colours(colours: Colours, stationery: Stationery, texts: tuple[str, ...]) -> None:
    for name in colours.__struct_fields__:
        value = getattr(colours, name)
        if len(value) != 6 or any(digit not in "0123456789abcdefABCDEF" for digit in value):
            raise _fault(
                stationery,
                texts[-1],
                f"the colour `{name}` is {value!r}, and six digits such as `1C5A63` are wanted.",
                value,
            )


def _fault(stationery: Stationery, text: str, said: str, words: str = "") -> PageError:
    """What is wrong, at the line that is meant, with what was probably meant."""
    unknown = said.partition("unknown field `")[2].partition("`")[0]
    place = said.partition("at `$.")[2].partition("`")[0].rpartition(".")[2]
    wanted = words or unknown or place
    line = next((at for at, row in enumerate(text.splitlines(), 1) if wanted and wanted in row), 1)
    hint = near_miss(unknown, _NAMES) if unknown else ""
    what = f"there is no {unknown!r} in {FILE}." if unknown else said if said.endswith(".") else f"{said}."
    where = f"{stationery.name}/{FILE}" if stationery.folder else FILE
    return PageError([Problem(Span(where, line), what, hint)])


_NAMES = tuple(
    name.replace("_", "-") for part in (Looks, Letters, Lines, Sheets, Colours) for name in part.__struct_fields__
)
