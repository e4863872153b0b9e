"""What a page shows, in page order."""

from __future__ import annotations

from msgspec import Struct

from wornpage.tree.brackets import split_form

Number = int | float


class ShownValue(Struct, frozen=True, omit_defaults=True):
    """A value within words."""

    said: str
    expression: str = ""
    """As its mark has it, with its form; empty where nobody knows it."""
    place: str = ""
    """Where the mark stands: `file:line:column`."""
    number: Number | None = None
    """What it was before it was rounded; None for what is no number."""


OVER = " / "
"""Between heads above each other."""
HOLE = "\ufffc"
"""Stands for a value in the frame of a text."""


def asked(value: ShownValue) -> str:
    """What the mark of a value asks for, whatever form it is written in."""
    body = value.expression.removeprefix("{").removesuffix("}")
    return split_form(body)[0].strip()


class Words(Struct, frozen=True, omit_defaults=True, tag="words"):
    """A heading, a paragraph, an item, code, output."""

    kind: str
    """`title`, `summary`, `heading`, `paragraph`, `code`, `output` or `formula`."""
    text: str
    place: str = ""
    values: tuple[ShownValue, ...] = ()
    """In their order in the text."""
    chunk: str = ""
    frame: str = ""
    """The text with a hole for each of its values; empty where it has none."""

    @property
    def between(self) -> list[str]:
        """The text before, between and behind its values."""
        parts = self.frame.split(HOLE)
        return parts if self.frame and len(parts) == len(self.values) + 1 else [self.text]


class Table(Struct, frozen=True, omit_defaults=True, tag="table"):
    """A table as readers see it."""

    label: str
    name: str
    """Such as `Table 2`; empty for one without a number."""
    caption: str
    place: str = ""
    chunk: str = ""
    heads: tuple[str, ...] = ()
    """Of its columns, those above each other joined by ` / `."""
    rows: tuple[tuple[str, ...], ...] = ()
    exact: tuple[tuple[Number | None, ...], ...] = ()
    """The numbers before they were rounded, cell by cell; empty for a table of words."""
    named_by: int = 0
    """How many columns at the left name the rows."""
    left_out: int = 0
    """Rows that are not held here."""
    values: tuple[ShownValue, ...] = ()
    """Those of marks in its caption, then those in its cells."""
    frame: str = ""
    """The caption with a hole for each of its values; empty where it has none."""


class ShownPicture(Struct, frozen=True, omit_defaults=True):
    """One picture of a figure."""

    format: str
    digest: str
    """Of its bytes, which are kept beside."""
    width: float
    height: float
    """Centimetres."""


class Figure(Struct, frozen=True, omit_defaults=True, tag="figure"):
    """A figure."""

    label: str
    name: str
    caption: str
    place: str = ""
    chunk: str = ""
    pictures: tuple[ShownPicture, ...] = ()
    values: tuple[ShownValue, ...] = ()
    frame: str = ""


Part = Words | Table | Figure


class ShownChunk(Struct, frozen=True, omit_defaults=True):
    """A chunk that stood behind it."""

    label: str
    place: str
    code: str
    """A digest."""
    run: str = ""
    """Which of its runs it was: another one made what is shown where that differs."""
    files: tuple[str, ...] = ()
    """What it read: files, given values, and what chunks above had written."""
    given: tuple[str, ...] = ()
    above: tuple[str, ...] = ()
    """Labels of those chunks."""


class Showing(Struct, frozen=True, omit_defaults=True):
    """One pressing."""

    title: str
    parts: tuple[Part, ...]
    chunks: tuple[ShownChunk, ...] = ()
    when: float = 0.0
    """In seconds since the epoch."""
    page: str = ""
    """What it was made of, for people: the page, an edition, a commit, a file."""
    text: str = ""
    """A digest of the page's text."""
    given: dict[str, str] = {}
    data: dict[str, str] = {}
    """Hashes of data files, by path."""
    packages: dict[str, str] = {}
    python: str = ""
    worn: str = ""
