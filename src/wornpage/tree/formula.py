"""The mathematics tree: one meaning, from which every output is written."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Formula:
    """Any piece of mathematics."""


@dataclass(frozen=True, slots=True)
class Row(Formula):
    """Pieces side by side."""

    items: tuple[Formula, ...]


@dataclass(frozen=True, slots=True)
class Identifier(Formula):
    """A letter, or several that make one name."""

    text: str
    style: str = "italic"
    """`italic`, `upright`, `bold`, `bold-italic`, `double-struck`, `script`, `fraktur`, `sans`, `mono`."""


@dataclass(frozen=True, slots=True)
class Number(Formula):
    """Digits, with a decimal sign perhaps."""

    text: str
    style: str = "upright"


@dataclass(frozen=True, slots=True)
class Operator(Formula):
    """A sign between or around others."""

    text: str
    form: str = "infix"
    """`binary`, `relation`, `punctuation`, `open`, `close`, `ordinary` or `arrow`."""
    name: str = ""
    """How it is read aloud; empty to read the sign itself."""


@dataclass(frozen=True, slots=True)
class BigOperator(Formula):
    """A sum, integral or the like, which may carry limits."""

    text: str
    name: str
    limits: bool
    """Whether limits stand above and below it in display."""


@dataclass(frozen=True, slots=True)
class Function(Formula):
    """A named function set upright, such as log or max."""

    text: str
    limits: bool = False


@dataclass(frozen=True, slots=True)
class Words(Formula):
    """Running text inside mathematics."""

    text: str
    style: str = "upright"


@dataclass(frozen=True, slots=True)
class Space(Formula):
    """Room between pieces."""

    width: float
    """Ems; negative to draw together."""


@dataclass(frozen=True, slots=True)
class Scripts(Formula):
    """A base with something below and above its right end, or under and over it."""

    base: Formula
    sub: Formula | None
    sup: Formula | None
    limits: bool | None = None
    """Above and below (True), beside (False), or as the base says (None)."""


@dataclass(frozen=True, slots=True)
class Fraction(Formula):
    """One thing over another."""

    numerator: Formula
    denominator: Formula
    line: bool = True
    style: str = ""
    """`display`, `text` or empty to follow its surroundings."""


@dataclass(frozen=True, slots=True)
class Root(Formula):
    """A square root, or one of another degree."""

    radicand: Formula
    degree: Formula | None = None


@dataclass(frozen=True, slots=True)
class Fenced(Formula):
    """Delimiters that stretch to what they hold; an empty delimiter is not drawn."""

    open: str
    body: Formula
    close: str


@dataclass(frozen=True, slots=True)
class Sized(Formula):
    """A delimiter at a given size."""

    text: str
    size: float
    """Ems of height."""
    form: str


@dataclass(frozen=True, slots=True)
class Accent(Formula):
    """A sign over or under a base."""

    base: Formula
    mark: str
    """The accent's sign, such as `^` for a hat."""
    name: str
    under: bool = False
    stretchy: bool = False


@dataclass(frozen=True, slots=True)
class Brace(Formula):
    """A brace over or under, with a note."""

    base: Formula
    note: Formula | None
    over: bool


@dataclass(frozen=True, slots=True)
class Stacked(Formula):
    """Something set over or under a base sign, as by stackrel."""

    base: Formula
    over: Formula | None
    under: Formula | None


@dataclass(frozen=True, slots=True)
class Phantom(Formula):
    """Room for something that is not drawn."""

    body: Formula


@dataclass(frozen=True, slots=True)
class Boxed(Formula):
    """A formula in a box."""

    body: Formula


@dataclass(frozen=True, slots=True)
class Cancelled(Formula):
    """A formula struck through."""

    body: Formula


@dataclass(frozen=True, slots=True)
class Coloured(Formula):
    """A formula in a colour of its own."""

    body: Formula
    colour: str


@dataclass(frozen=True, slots=True)
class Styled(Formula):
    """A piece set in display or text style, or smaller."""

    body: Formula
    style: str
    """`display`, `text`, `script` or `scriptscript`."""


@dataclass(frozen=True, slots=True)
class Grid(Formula):
    """Rows and columns: a matrix, cases, an aligned block."""

    rows: tuple[tuple[Formula, ...], ...]
    kind: str
    """`matrix`, `cases`, `aligned`, `gathered` or `array`."""
    open: str = ""
    close: str = ""
    aligns: tuple[str, ...] = ()
    """For an array, one of `left`, `centre`, `right` a column."""
    rules_after: tuple[int, ...] = ()
    """Columns of an array with a rule to their right, counted from 0; -1 is the left edge."""
    lines_after: tuple[int, ...] = ()
    """Rows of an array with a line below, counted from 0; -1 is the top edge."""
    tags: tuple[str, ...] = ()
    """A tag for each row; empty where there is none."""


@dataclass(frozen=True, slots=True)
class Tagged(Formula):
    """A formula with the author's own tag instead of a number."""

    body: Formula
    tag: str
