"""A deck: slides in their order, ready to be written."""

from __future__ import annotations

from msgspec import Struct

from wornpage.tree import nodes as n
from wornpage.tree.language import Language
from wornpage.tree.span import Span

TITLE, SECTION, PLAIN = "title", "section", "plain"


class Slide(Struct, frozen=True):
    """One slide."""

    span: Span
    label: str
    """Its address; no other slide has it."""
    is_labelled: bool
    """Whether its heading has that label; it goes by its number otherwise."""
    kind: str
    """`title` for the first, `section` for one that holds a heading alone, `plain` for all else."""
    title: n.Inlines
    number: str = ""
    """What stands before its title: a word and a number."""
    level: int = 1
    """That of its heading."""
    blocks: n.Blocks = ()
    speaker: n.Blocks = ()
    """What only the speaker sees."""
    look: n.SlideLook = n.SlideLook()
    steps: int = 0
    """How many steps come after what is there from the first."""
    part: int = 0
    """Where a heading has several slides: which of them, counted from 1; 0 for the only one."""
    parts: int = 0
    scale: float = 1.0
    """How large its letters are, measured by those of the deck."""


class Shape(Struct, frozen=True):
    """The measures of a slide in points of a screen: 96 to the inch, so that a centimetre is as long as on paper."""

    width: int
    height: int
    side: int = 64
    """Left free at the left and at the right."""
    top: int = 44
    foot: int = 46
    """Left free below, with the footer in it."""
    title: float = 42.0
    """Height of letters; so below."""
    text: float = 29.0
    code: float = 20.0
    table: float = 22.0
    small: float = 18.0
    """Captions and notes."""
    gap: float = 14.0
    """Between blocks."""

    @property
    def inner(self) -> float:
        """The width that blocks have."""
        return self.width - 2.0 * self.side


SHAPES = {"16:9": Shape(1280, 720), "4:3": Shape(960, 720, side=52)}
POINTS_A_CENTIMETRE = 96 / 2.54


class Deck(Struct, frozen=True):
    """All slides of a page."""

    head: n.TitleBlock
    plain_title: str
    terms: Language
    language: str
    shape: Shape
    slides: tuple[Slide, ...]
    footer: str
    """Words at the foot of each slide; empty for none."""
    numbered: bool
    minutes: int
    """How long the talk may take; 0 for as long as it will."""
