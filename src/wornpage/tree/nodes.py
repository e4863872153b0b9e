"""The document model: what a page is made of, before and after composing.

Every node keeps the span it came from. `source` makes the nodes down to `Chunk`; composing replaces
chunks, marks and bare mathematics by the nodes of the last section, which the outputs know how to write.
"""

from __future__ import annotations

from dataclasses import dataclass

from wornpage.tree.formula import Formula
from wornpage.tree.span import Span
from wornpage.tree.table import TableData


@dataclass(frozen=True, slots=True)
class Attributes:
    """What stands in braces after a heading or an image: `{#label .class key=value}`."""

    label: str = ""
    classes: tuple[str, ...] = ()
    pairs: tuple[tuple[str, str], ...] = ()
    span: Span | None = None

    def get(self, key: str, default: str = "") -> str:
        """The value of `key`, or `default`."""
        return dict(self.pairs).get(key, default)


NO_ATTRIBUTES = Attributes()


@dataclass(frozen=True, slots=True)
class Node:
    """Anything in the tree."""

    span: Span


class Inline(Node):
    """A piece of running text."""

    __slots__ = ()


class Block(Node):
    """A piece of a page that stands by itself."""

    __slots__ = ()


Inlines = tuple[Inline, ...]
Blocks = tuple[Block, ...]

# --- running text -----------------------------------------------------------------------------


@dataclass(frozen=True, slots=True)
class Text(Inline):
    """Letters as they are to be read; every output escapes them."""

    text: str


@dataclass(frozen=True, slots=True)
class Emphasis(Inline):
    children: Inlines


@dataclass(frozen=True, slots=True)
class Strong(Inline):
    children: Inlines


@dataclass(frozen=True, slots=True)
class Strike(Inline):
    children: Inlines


@dataclass(frozen=True, slots=True)
class Code(Inline):
    text: str


@dataclass(frozen=True, slots=True)
class Link(Inline):
    target: str
    title: str
    children: Inlines


@dataclass(frozen=True, slots=True)
class Image(Inline):
    source: str
    """A path relative to the page, or a `data:` address."""
    title: str
    alt: Inlines
    attributes: Attributes = NO_ATTRIBUTES


@dataclass(frozen=True, slots=True)
class SoftBreak(Inline):
    """A line end in the source: a space to the reader."""


@dataclass(frozen=True, slots=True)
class HardBreak(Inline):
    """A line end to the reader."""


@dataclass(frozen=True, slots=True)
class RawHtmlInline(Inline):
    """A tag written by the author, meant for HTML alone."""

    html: str


@dataclass(frozen=True, slots=True)
class Footnote(Inline):
    number: int
    blocks: Blocks
    first: bool = True
    """False where the same note is called again."""


@dataclass(frozen=True, slots=True)
class RawMath(Inline):
    """Mathematics between dollar signs as written, not yet parsed."""

    latex: str


@dataclass(frozen=True, slots=True)
class ValueMark(Inline):
    """`{= expression as form}`."""

    expression: str
    form: str
    """As written after `as`, without it; quotes are kept; empty for none."""


@dataclass(frozen=True, slots=True)
class PointerMark(Inline):
    """`{see label, label as form}`."""

    labels: tuple[str, ...]
    form: str = ""


# --- blocks -----------------------------------------------------------------------------------


@dataclass(frozen=True, slots=True)
class Heading(Block):
    level: int
    children: Inlines
    attributes: Attributes = NO_ATTRIBUTES
    label: str = ""
    """The place to link to: as written, or made from the words."""
    number: str = ""


@dataclass(frozen=True, slots=True)
class Paragraph(Block):
    children: Inlines
    tight: bool = False
    """Whether it is the whole of an item in a list without gaps."""


@dataclass(frozen=True, slots=True)
class Quote(Block):
    blocks: Blocks


@dataclass(frozen=True, slots=True)
class Item(Block):
    blocks: Blocks
    done: bool | None = None
    """For a task: whether it is ticked; None for an ordinary item."""


@dataclass(frozen=True, slots=True)
class List(Block):
    items: tuple[Item, ...]
    ordered: bool
    start: int = 1
    tight: bool = True


@dataclass(frozen=True, slots=True)
class Definition(Block):
    term: Inlines
    meanings: tuple[Blocks, ...]


@dataclass(frozen=True, slots=True)
class Definitions(Block):
    entries: tuple[Definition, ...]


@dataclass(frozen=True, slots=True)
class Caption(Block):
    """A `Caption:` line, or a `Label:` line when `children` is empty and `label` is not."""

    children: Inlines
    kind: str = ""
    """`table` or `figure` where the line says which it belongs to."""
    label: str = ""


@dataclass(frozen=True, slots=True)
class PipeTable(Block):
    """A table written by hand."""

    head: tuple[Inlines, ...]
    aligns: tuple[str, ...]
    """`left`, `right`, `centre` or empty, one a column."""
    rows: tuple[tuple[Inlines, ...], ...]
    caption: Caption | None = None
    label: str = ""
    number: str = ""


@dataclass(frozen=True, slots=True)
class Listing(Block):
    """Code that is shown and never run."""

    language: str
    code: str
    caption: Caption | None = None
    label: str = ""
    number: str = ""


@dataclass(frozen=True, slots=True)
class RawMathBlock(Block):
    """Mathematics between double dollar signs as written, not yet parsed."""

    latex: str
    label: str = ""


@dataclass(frozen=True, slots=True)
class Rule(Block):
    """A thematic break."""


@dataclass(frozen=True, slots=True)
class RawHtmlBlock(Block):
    html: str


@dataclass(frozen=True, slots=True)
class Container(Block):
    """A `:::` block: its first word is its kind."""

    kind: str
    attributes: Attributes
    blocks: Blocks


@dataclass(frozen=True, slots=True)
class PictureBlock(Block):
    """Images that stand alone in a paragraph."""

    images: tuple[Image, ...]
    caption: Caption | None = None
    label: str = ""
    number: str = ""


@dataclass(frozen=True, slots=True)
class Command(Block):
    """A mark alone in a paragraph that makes a list or a break, such as `{contents}`."""

    verb: str


@dataclass(frozen=True, slots=True)
class RawOption:
    """One `key=value` of a chunk's header, as written."""

    key: str
    value: str
    span: Span


@dataclass(frozen=True, slots=True)
class Chunk(Block):
    """A fenced block of code that is run."""

    language: str
    label: str
    """As written, or made from the heading it stands under."""
    named: bool
    """Whether the label was written by the author."""
    options: tuple[RawOption, ...]
    code: str
    code_line: int
    """Line of the page on which the code begins, counted from 1."""
    fence: str
    """The opening fence as written."""
    indent: int = 0
    captions: tuple[Caption, ...] = ()


# --- what composing makes ---------------------------------------------------------------------


@dataclass(frozen=True, slots=True)
class Math(Inline):
    formula: Formula
    alt: str


@dataclass(frozen=True, slots=True)
class MathBlock(Block):
    formula: Formula
    alt: str
    label: str = ""
    number: str = ""


@dataclass(frozen=True, slots=True)
class Token:
    """A run of code in one colour."""

    text: str
    role: str
    """Short Pygments class, such as `k` for a keyword; empty for plain text."""


@dataclass(frozen=True, slots=True)
class CodeLine:
    tokens: tuple[Token, ...]
    picked: bool = False
    aside: int = 0
    """Number of the author's note to this line; 0 for none."""


@dataclass(frozen=True, slots=True)
class CodeBlock(Block):
    """Code ready to be shown."""

    language: str
    lines: tuple[CodeLine, ...]
    label: str = ""
    tucked: bool = False
    numbered: bool = False
    asides: tuple[Inlines, ...] = ()
    caption: Inlines = ()
    number: str = ""
    first_number: int = 1


@dataclass(frozen=True, slots=True)
class OutputText(Block):
    """What a chunk printed, or said as a notice, or the error it ended with."""

    text: str
    role: str
    """`output`, `notice` or `error`."""
    cut: str = ""
    """What was left out, in words; empty when nothing was."""


@dataclass(frozen=True, slots=True)
class Picture:
    """One image of a figure, at its real size."""

    format: str
    """`svg` or `png`, `jpeg`, `gif`, `webp`."""
    data: bytes
    width: float
    """Centimetres as shown; 0 for the width of the text."""
    height: float
    """Centimetres as shown; 0 where it follows from the width."""
    alt: str


@dataclass(frozen=True, slots=True)
class InlinePicture(Inline):
    """An image among words."""

    picture: Picture


@dataclass(frozen=True, slots=True)
class ContentsList(Block):
    """A list of what the page holds: its sections, figures or tables."""

    kind: str
    """`contents`, `figures` or `tables`."""
    entries: tuple[ContentsEntry, ...] = ()


@dataclass(frozen=True, slots=True)
class SheetBreak(Block):
    """What follows begins on a new sheet, where there are sheets."""


@dataclass(frozen=True, slots=True)
class Figure(Block):
    pictures: tuple[Picture, ...]
    caption: Inlines = ()
    label: str = ""
    number: str = ""
    align: str = "centre"


@dataclass(frozen=True, slots=True)
class TextTable:
    """A table laid out as words: what every output needs to draw it."""

    heads: tuple[tuple[HeadCell, ...], ...]
    """Rows of heads from the top; spanned places are left out."""
    aligns: tuple[str, ...]
    rows: tuple[tuple[Inlines, ...], ...]
    index_columns: int = 0
    note: str = ""


@dataclass(frozen=True, slots=True)
class HeadCell:
    text: Inlines
    span: int = 1
    """Columns it stretches over."""


@dataclass(frozen=True, slots=True)
class TableBlock(Block):
    table: TextTable
    caption: Inlines = ()
    label: str = ""
    number: str = ""
    align: str = "centre"
    data: TableData | None = None


@dataclass(frozen=True, slots=True)
class RichHtml(Block):
    """HTML that a value offered of itself, with words for outputs that cannot show it."""

    html: str
    text: str


@dataclass(frozen=True, slots=True)
class ChunkView(Block):
    """All a chunk shows, in order."""

    label: str
    blocks: Blocks


@dataclass(frozen=True, slots=True)
class Person:
    """An author."""

    name: str
    affiliations: tuple[str, ...] = ()
    email: str = ""


@dataclass(frozen=True, slots=True)
class TitleBlock:
    """What stands at the head of a page."""

    title: Inlines = ()
    subtitle: Inlines = ()
    authors: tuple[Person, ...] = ()
    date: str = ""
    abstract: Blocks = ()
    keywords: tuple[Inlines, ...] = ()


@dataclass(frozen=True, slots=True)
class ContentsEntry:
    level: int
    number: str
    label: str
    children: Inlines


@dataclass(frozen=True, slots=True)
class Composed:
    """A page with all its answers in place: what the outputs write."""

    head: TitleBlock
    blocks: Blocks
    contents: tuple[ContentsEntry, ...]
    plain_title: str
    language: str = "en"
    files: tuple[str, ...] = ()
    """Images that were read, as paths the system knows."""
