"""The mathematics tree: one meaning, from which every output is written."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec import Struct


class Formula(Struct, frozen=True):
    """Any piece of mathematics."""


class Row(Formula, frozen=True):
    """Pieces side by side."""

    items: tuple[Formula, ...]


class Identifier(Formula, frozen=True):
    """A letter, or several that make one name."""

    text: str
    style: str = "italic"
    """`italic`, `upright`, `bold`, `bold-italic`, `double-struck`, `script`, `fraktur`, `sans`, `mono`."""


class Number(Formula, frozen=True):
    """Digits, with a decimal sign perhaps."""

    text: str
    style: str = "upright"


class Operator(Formula, frozen=True):
    """A sign between or around others."""

    text: str
    form: str = "infix"
    """`binary`, `relation`, `punctuation`, `open`, `close`, `ordinary` or `arrow`."""
    name: str = ""
    """How it is read aloud; empty to read the sign itself."""


LEADS_ON = {"binary", "relation", "arrow", "open", "punctuation"}
"""Forms after which a sign such as minus has nothing on its left."""


class BigOperator(Formula, frozen=True):
    """A sum, integral or the like, which may carry limits."""

    text: str
    name: str
    limits: bool
    """Whether limits stand above and below it in display."""


class Function(Formula, frozen=True):
    """A named function set upright, such as log or max."""

    text: str
    limits: bool = False


class Words(Formula, frozen=True):
    """Running text inside mathematics."""

    text: str
    style: str = "upright"


class Space(Formula, frozen=True):
    """Room between pieces."""

    width: float
    """Ems; negative to draw together."""


class Scripts(Formula, frozen=True):
    """A base with something below and above its right end, or under and over it."""

    base: Formula
    sub: Formula | None
    sup: Formula | None
    limits: bool | None = None
    """Above and below (True), beside (False), or as the base says (None)."""


class Fraction(Formula, frozen=True):
    """One thing over another."""

    numerator: Formula
    denominator: Formula
    line: bool = True
    style: str = ""
    """`display`, `text` or empty to follow its surroundings."""


class Root(Formula, frozen=True):
    """A square root, or one of another degree."""

    radicand: Formula
    degree: Formula | None = None


class Fenced(Formula, frozen=True):
    """Delimiters that stretch to what they hold; an empty delimiter is not drawn."""

    open: str
    body: Formula
    close: str


class Sized(Formula, frozen=True):
    """A delimiter at a given size."""

    text: str
    size: float
    """Ems of height."""
    form: str


class Accent(Formula, frozen=True):
    """A sign over or under a base."""

    base: Formula
    mark: str
    """The accent's sign, such as `^` for a hat."""
    name: str
    under: bool = False
    stretchy: bool = False


class Brace(Formula, frozen=True):
    """A brace over or under, with a note."""

    base: Formula
    note: Formula | None
    over: bool


class Stacked(Formula, frozen=True):
    """Something set over or under a base sign, as by stackrel."""

    base: Formula
    over: Formula | None
    under: Formula | None


class Phantom(Formula, frozen=True):
    """Room for something that is not drawn."""

    body: Formula


class Boxed(Formula, frozen=True):
    """A formula in a box."""

    body: Formula


class Cancelled(Formula, frozen=True):
    """A formula struck through."""

    body: Formula


class Coloured(Formula, frozen=True):
    """A formula in a colour of its own."""

    body: Formula
    colour: str


class Styled(Formula, frozen=True):
    """A piece set in display or text style, or smaller."""

    body: Formula
    style: str
    """`display`, `text`, `script` or `scriptscript`."""


class Grid(Formula, frozen=True):
    """Rows and columns: a matrix, cases, an aligned block."""

    rows: tuple[tuple[Formula, ...], ...]
    kind: str
    """`matrix`, `cases`, `aligned`, `gathered`, `substack` or `array`."""
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


class Tagged(Formula, frozen=True):
    """A formula with the author's own tag instead of a number."""

    body: Formula
    tag: str


def length(node: object) -> int:
    """Letters side by side in a formula: of a fraction the longer half counts, and scripts count little."""
    match node:
        case Fraction(numerator=top, denominator=below):
            return max(length(top), length(below))
        case Scripts(base=base, sub=sub, sup=sup):
            return length(base) + (max(length(sub), length(sup)) + 1) // 2
        case Grid(rows=rows):
            return max((sum(length(cell) + 1 for cell in row) for row in rows), default=0)
        case Identifier(text=text) | Number(text=text) | Words(text=text) | Function(text=text):
            return len(text)
        case Operator() | BigOperator():
            return 2
        case tuple():
            return sum(map(length, node))
        case Formula():
            return sum(length(getattr(node, name)) for name in node.__struct_fields__)
    return 0


def letters_of(formula: object) -> Iterator[str]:
    """Everything a formula, or several, would have set in letters."""
    if isinstance(formula, tuple):
        for one in formula:
            yield from letters_of(one)
    elif isinstance(formula, Struct):
        for name in formula.__struct_fields__:
            held = getattr(formula, name)
            if name == "text":
                yield held
            elif isinstance(held, tuple | Struct):
                yield from letters_of(held)
