"""The document model: what a page is made of, before and after composing.

Every node keeps the span it came from. `source` makes the nodes down to `Chunk`; composing replaces
chunks, marks and bare mathematics by the nodes of the last section, which the outputs know how to write.
"""

from __future__ import annotations

from typing import get_args

from msgspec import Struct

from wornpage.tree.formula import Formula
from wornpage.tree.language import Language
from wornpage.tree.live import Live
from wornpage.tree.span import Span
from wornpage.tree.table import TableData


class Attributes(Struct, frozen=True):
    """What stands in braces after a heading or an image: `{#label .class key=value}`."""

    label: str = ""
    classes: tuple[str, ...] = ()
    pairs: tuple[tuple[str, str], ...] = ()
    span: Span | None = None

    def get(self, key: str, default: str = "") -> str:
        """The value of `key`, or `default`."""
        return dict(self.pairs).get(key, default)


NO_ATTRIBUTES = Attributes()


class Node(Struct, frozen=True):
    """Anything in the tree."""

    span: Span


class Part(Struct, frozen=True):
    """A piece of a node that holds further nodes and has no place of its own, such as a row of heads."""


class Inline(Node, frozen=True):
    """A piece of running text."""


class Block(Node, frozen=True):
    """A piece of a page that stands by itself."""


Inlines = tuple[Inline, ...]
Blocks = tuple[Block, ...]

# --- running text -----------------------------------------------------------------------------


class Text(Inline, frozen=True):
    """Letters as they are to be read; every output escapes them."""

    text: str


class Emphasis(Inline, frozen=True):
    children: Inlines


class Strong(Inline, frozen=True):
    children: Inlines


class Strike(Inline, frozen=True):
    children: Inlines


class Superscript(Inline, frozen=True):
    """Letters set high, such as those that call a table's notes."""

    text: str


class Code(Inline, frozen=True):
    text: str


class Link(Inline, frozen=True):
    """To a label of the page, or to an address elsewhere."""

    address: str
    title: str
    children: Inlines
    to: str = ""
    """The label that it leads to; the address is empty then."""
    page: str = ""
    """In a work of several pages: the name of the page that has the label; empty for the same page."""
    apart: str = ""
    """In a repeated file: what tells its labels apart, which are looked for first."""


class Image(Inline, frozen=True):
    source: str
    """A path relative to the page, or a `data:` address."""
    title: str
    alt: Inlines
    attributes: Attributes = NO_ATTRIBUTES


class SoftBreak(Inline, frozen=True):
    """A line end in the source: a space to the reader."""


class HardBreak(Inline, frozen=True):
    """A line end to the reader."""


class RawHtmlInline(Inline, frozen=True):
    """A tag written by the author, meant for HTML alone."""

    html: str


class Footnote(Inline, frozen=True):
    key: str
    """Tells the note from all others of the page, whichever file or chunk it comes from."""
    blocks: Blocks
    number: int = 0
    """In the order in which notes are called; given when composing."""
    first: bool = True
    """False where the same note is called again."""
    is_citation: bool = False
    """Whether a citation made it, which is set close to the word before."""


class RawMath(Inline, frozen=True):
    """Mathematics between dollar signs as written, not yet parsed."""

    latex: str


class ValueMark(Inline, frozen=True):
    """`{= expression as form}`."""

    expression: str
    form: str
    """As written after `as`, without it; quotes are kept; empty for none."""
    raw: str = ""
    """The mark as it stands in the page."""
    language: str = ""
    """The word of the language that the expression is written in; empty for that of the page."""


class PointerMark(Inline, frozen=True):
    """`{see label, label as form}`."""

    labels: tuple[str, ...]
    form: str = ""
    apart: str = ""
    """In a repeated file: what tells its labels apart, which are looked for first."""
    raw: str = ""
    """The mark as it stands in the page."""


class CiteItem(Struct, frozen=True):
    """One work in a citation, as written."""

    key: str
    prefix: str = ""
    locator: str = ""
    label: str = "page"
    """What the locator counts, by CSL's name."""
    suffix: str = ""


class CiteMark(Inline, frozen=True):
    """`{cite key p. 4; "see also" key2}`."""

    items: tuple[CiteItem, ...]
    form: str = ""
    """`sentence`, `author` or `year`; empty for a citation in brackets."""
    raw: str = ""
    """The mark as it stands in the page."""


class IndexMark(Inline, frozen=True):
    """`{index term}`: a word for the index, which shows nothing where it stands."""

    term: str
    narrower: str = ""
    see: str = ""
    """The term that it only leads to."""
    also: bool = False
    """Whether that is said beside its own places."""
    raw: str = ""
    """The mark as it stands in the page."""


# --- blocks -----------------------------------------------------------------------------------


class Heading(Block, frozen=True):
    level: int
    children: Inlines
    attributes: Attributes = NO_ATTRIBUTES
    label: str = ""
    """The place to link to: as written, or made from the words."""
    number: str = ""
    word: str = ""
    """What stands before the number, such as `Appendix`; empty for nothing."""
    is_chapter: bool = False
    """Whether a page of a volume begins with it."""


class PartTitle(Block, frozen=True):
    """Where a part of a volume begins."""

    children: Inlines
    label: str
    number: str = ""
    word: str = ""


class Paragraph(Block, frozen=True):
    children: Inlines
    tight: bool = False
    """Whether it is the whole of an item in a list without gaps."""


class Quote(Block, frozen=True):
    blocks: Blocks


class Item(Block, frozen=True):
    blocks: Blocks
    done: bool | None = None
    """For a task: whether it is ticked; None for an ordinary item."""
    step: int = 0
    """On slides: the step that it comes with; 0 for one that is there from the first. So in containers."""


class List(Block, frozen=True):
    items: tuple[Item, ...]
    ordered: bool
    start: int = 1
    tight: bool = True


class Definition(Block, frozen=True):
    term: Inlines
    meanings: tuple[Blocks, ...]


class Definitions(Block, frozen=True):
    entries: tuple[Definition, ...]


class Caption(Block, frozen=True):
    """A `Caption:` line, or a `Label:` line when `children` is empty and `label` is not."""

    children: Inlines
    kind: str = ""
    """`table` or `figure` where the line says which it belongs to."""
    label: str = ""


class PipeTable(Block, frozen=True):
    """A table written by hand."""

    head: tuple[Inlines, ...]
    aligns: tuple[str, ...]
    """`left`, `right`, `centre` or empty, one a column."""
    rows: tuple[tuple[Inlines, ...], ...]
    caption: Caption | None = None
    label: str = ""
    number: str = ""


class Listing(Block, frozen=True):
    """Code that is shown and never run."""

    language: str
    code: str
    caption: Caption | None = None
    label: str = ""
    number: str = ""


class RawMathBlock(Block, frozen=True):
    """Mathematics between double dollar signs as written, not yet parsed."""

    latex: str
    label: str = ""


class Rule(Block, frozen=True):
    """A thematic break."""


class RawHtmlBlock(Block, frozen=True):
    html: str


class Container(Block, frozen=True):
    """A `:::` block: its first word is its kind."""

    kind: str
    attributes: Attributes
    blocks: Blocks
    title: Inlines = ()
    """Words after its kind."""
    step: int = 0

    @property
    def chosen(self) -> tuple[str, ...]:
        """The outputs that `in html, pdf` or `not in slides` names; none for a container that is for all."""
        words = self.kind.removeprefix("not ")
        return tuple(part.strip() for part in words[3:].split(",")) if words.startswith("in ") else ()

    def is_for(self, output: str, family: str = "") -> bool:
        """Whether an output shows it; what is said of a family of outputs holds for each."""
        named = output in self.chosen or (family and family in self.chosen)
        return not self.chosen or bool(named) != self.kind.startswith("not ")


class PictureBlock(Block, frozen=True):
    """Images that stand alone in a paragraph."""

    images: tuple[Image, ...]
    caption: Caption | None = None
    label: str = ""
    number: str = ""


class Command(Block, frozen=True):
    """A mark alone in a paragraph that makes a list or a break, such as `{contents}`."""

    verb: str
    attributes: Attributes = NO_ATTRIBUTES
    """What follows the verb, such as `background=#123` after `new slide`."""


class RawOption(Struct, frozen=True):
    """One `key=value` of a chunk's header, as written."""

    key: str
    value: str
    span: Span


class Chunk(Block, frozen=True):
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
    home: str = ""
    """Under what its settings are kept, where that is not its label: repetitions share theirs."""
    apart: str = ""
    """In a repeated file: what tells its labels apart."""
    binds: str = ""
    """For the chunk that an insert begins with: `each` if its value is what the file is repeated for, else `names`."""


class Argument(Struct, frozen=True):
    """A name that an insert gives to the inserted file."""

    name: str
    expression: str


class Template(Struct, frozen=True):
    """An inserted file as read, before it is told for what it stands."""

    name: str
    """The file's name for messages, and that of its settings."""
    front: str
    front_line: int
    """Line on which the front matter begins, counted from 1."""
    blocks: tuple[Block, ...]


class Insert(Block, frozen=True):
    """`{insert file name=value}` or `{insert file for name in list}`, alone in a paragraph."""

    file: str
    """As written; braces in it hold expressions."""
    arguments: tuple[Argument, ...] = ()
    target: str = ""
    """The names bound in turn; empty where the file stands once."""
    items: str = ""
    """The expression that gives what they are bound to."""
    deeper: int = 0
    """How much deeper the file's headings stand."""
    label: str = ""
    """That of the chunk it begins with."""
    item: str = ""
    """What it stands for, where that is known; tells its labels apart."""
    apart: str = ""
    """What tells labels apart around it."""
    folder: str = ""
    """From the page's folder to that of the file the mark stands in; empty for the same."""
    template: Template | None = None
    """None until the file is known."""

    @property
    def has_open_name(self) -> bool:
        """Whether which file it is hangs on values."""
        return "{" in self.file


class InsertedCode(Block, frozen=True):
    """`{insert code file.py part="name" run}`, alone in a paragraph."""

    file: str
    part: str
    runs: bool
    label: str
    options: tuple[RawOption, ...]


# --- what composing makes ---------------------------------------------------------------------


class Math(Inline, frozen=True):
    formula: Formula
    alt: str
    latex: str = ""
    """As it was written."""


class MathBlock(Block, frozen=True):
    formula: Formula
    alt: str
    label: str = ""
    number: str = ""
    latex: str = ""
    """As it was written."""


class Token(Struct, frozen=True):
    """A run of code in one colour."""

    text: str
    role: str
    """What it is, such as `keyword`; empty for plain text."""
    link: str = ""
    """Where it is documented."""


class CodeLine(Struct, frozen=True):
    tokens: tuple[Token, ...]
    picked: bool = False
    aside: int = 0
    """Number of the author's note to this line; 0 for none."""
    turns: tuple[int, ...] = ()
    """Where lines are picked out in turn: those of this line, counted from 1."""


class CodeBlock(Block, frozen=True):
    """Code ready to be shown."""

    language: str
    lines: tuple[CodeLine, ...]
    label: str = ""
    """The place to point at; empty for code that is no listing of its own."""
    tucked: bool = False
    numbered: bool = False
    asides: tuple[Inlines, ...] = ()
    caption: Inlines = ()
    number: str = ""
    word: str = ""
    """What stands before the number, in the language of the page; so in figures and tables."""
    first_number: int = 1
    name: str = ""
    """What it goes by where it is tucked away."""
    step: int = 0
    """On slides: the step after which its second turn comes."""

    @property
    def turns(self) -> int:
        """How many turns its picked lines take; 0 where they take none."""
        return max((max(line.turns, default=0) for line in self.lines), default=0)


class OutputText(Block, frozen=True):
    """What a chunk printed, or said as a notice, or the error it ended with."""

    text: str
    role: str
    """`output`, `notice` or `error`."""
    cut: str = ""
    """What was left out, in words; empty when nothing was."""


class Picture(Struct, frozen=True):
    """One image of a figure, at its real size."""

    format: str
    """`svg` or `png`, `jpeg`, `gif`, `webp`."""
    data: bytes
    width: float
    """Centimetres as shown; 0 for the width of the text."""
    height: float
    """Centimetres as shown; 0 where it follows from the width."""
    alt: str
    letter: str = ""
    """What tells it from the other parts of a figure; empty where there are none."""
    live: Live | None = None
    """What it is in a browser, where that is more."""
    look: str = ""
    """`page` where it is drawn in the page's own colours, on no ground."""
    undrawn: str = ""
    """Why there is no picture as yet (`data` is empty then): the library that made it could not draw it."""


class InlinePicture(Inline, frozen=True):
    """An image among words."""

    picture: Picture


class Raised(Inline, frozen=True):
    """Letters set high or low as the text has them, such as a citation's number."""

    children: Inlines
    below: bool = False


class SmallCaps(Inline, frozen=True):
    """Small letters as capitals of their height, such as some styles set names."""

    children: Inlines


class Citation(Inline, frozen=True):
    """A citation in words, with a place of its own to come back to."""

    anchor: str
    children: Inlines
    raw: str = ""
    """The mark it was made from, as it stands in the page."""


class Answered(Inline, frozen=True):
    """What a value mark or a pointer became. Writers see through it; who leads back to the page reads the mark."""

    children: Inlines
    raw: str
    """The mark as it stands in the page; empty for a cell of a table."""
    exact: str = ""
    """All digits of a number that is shown with fewer, though nobody has asked for that."""

    @property
    def is_value(self) -> bool:
        """Whether a value mark made it, and no pointer."""
        return bool(self.raw) and not self.raw.startswith("{see")


class Spot(Struct, frozen=True):
    """A place to lead to."""

    label: str
    page: str = ""
    """In a work of several pages: the name of the page that has it; empty for the same page."""


class Reference(Part, frozen=True):
    """An entry of the list of references."""

    anchor: str
    label: Inlines
    """What stands before it in the margin, such as a number; empty where nothing does."""
    words: Inlines
    backs: tuple[Spot, ...] = ()
    """Where it is cited."""


class ReferenceList(Block, frozen=True):
    entries: tuple[Reference, ...] = ()


class Anchor(Inline, frozen=True):
    """A place to lead to, which shows nothing."""

    label: str


class IndexPlace(Struct, frozen=True):
    """A place that the index leads to."""

    label: str
    page: str = ""
    """In a work of several pages: the name of the page that has it; empty for the same page."""
    said: str = ""
    """What it is called where there are no sheets: the number of its section."""


class IndexEntry(Struct, frozen=True):
    """A term of the index."""

    words: str
    places: tuple[IndexPlace, ...] = ()
    narrower: tuple[IndexEntry, ...] = ()
    see: tuple[str, ...] = ()
    also: tuple[str, ...] = ()


class IndexList(Block, frozen=True):
    """The index."""

    entries: tuple[IndexEntry, ...] = ()


class ContentsList(Block, frozen=True):
    """A list of what the page holds: its sections, figures or tables."""

    kind: str
    """`contents`, `figures` or `tables`."""
    entries: tuple[ContentsEntry, ...] = ()


class SheetBreak(Block, frozen=True):
    """What follows begins on a new sheet, where there are sheets."""

    right_hand: bool = False
    """Whether on one that lies on the right of an open book."""


class SlideLook(Struct, frozen=True):
    """How one slide is to look."""

    titled: bool = True
    """Whether its title is shown."""
    background: str = ""
    """A colour as `#` and six digits; empty for that of the deck."""
    picture: Picture | None = None
    """What lies behind it."""
    vertical: str = ""
    """`top`, `centre` or `bottom`; empty for what its kind has."""
    steps: bool | None = None
    """Whether its lists come step by step; None for what is usual."""
    fit: str = ""
    """`tell` or `shrink` where it is too tall; empty for what is usual."""


class SlideBreak(Block, frozen=True):
    """What follows begins on a new slide, where there are slides."""

    look: SlideLook = SlideLook()


class AboutHere(Block, frozen=True):
    """Words in place of a figure or a table that stands at the end."""

    words: str


class AppendixBreak(Block, frozen=True):
    """What follows is appendix: its sections have letters."""


class Figure(Block, frozen=True):
    pictures: tuple[Picture, ...]
    caption: Inlines = ()
    label: str = ""
    number: str = ""
    word: str = ""
    align: str = "centre"


class TextTable(Part, frozen=True):
    """A table laid out as words: what every output needs to draw it."""

    heads: tuple[tuple[HeadCell, ...], ...]
    """Rows of heads from the top; spanned places are left out."""
    aligns: tuple[str, ...]
    rows: tuple[tuple[Inlines, ...], ...]
    """Cells of each row; a row of the kind `group` is one cell over all columns."""
    index_columns: int = 0
    note: str = ""
    """What was left out, in words."""
    kinds: tuple[str, ...] = ()
    """`group`, `continued` or `foot` for rows that are no ordinary ones; empty if none is."""
    notes: tuple[tuple[str, Inlines], ...] = ()
    """Notes below: the letter that calls each, or nothing, and the words."""

    def kind(self, row: int) -> str:
        """What a row is."""
        return self.kinds[row] if row < len(self.kinds) else ""

    @property
    def plain_rows(self) -> tuple[tuple[Inlines, ...], ...]:
        """The rows that have a cell in every column."""
        return tuple(row for place, row in enumerate(self.rows) if self.kind(place) != "group")


class HeadCell(Part, frozen=True):
    text: Inlines
    span: int = 1
    """Columns it stretches over."""


class TableBlock(Block, frozen=True):
    table: TextTable
    caption: Inlines = ()
    label: str = ""
    number: str = ""
    word: str = ""
    align: str = "centre"
    data: TableData | None = None


class RichHtml(Block, frozen=True):
    """HTML that a value offered of itself, with words for outputs that cannot show it."""

    html: str
    text: str


class SheetCell(Struct, frozen=True):
    """A value for a cell of a workbook, as code has asked for it."""

    place: str
    type: str
    """`whole`, `number`, `text`, `truth`, `date`, `moment`, `faces` or `missing`; so what the value is."""
    value: object
    form: str = ""


class ChunkView(Block, frozen=True):
    """All a chunk shows, in order."""

    label: str
    blocks: Blocks
    output_goes: str = "below"
    """On slides: where what it shows stands, beside its code (`ChunkOptions.output_goes`)."""
    cells: tuple[SheetCell, ...] = ()
    """Of a workbook, which nobody else sees."""
    filled: tuple[TableData, ...] = ()
    """Tables that go into a workbook, shown or not."""


class Person(Struct, frozen=True):
    """An author."""

    name: str
    affiliations: tuple[str, ...] = ()
    email: str = ""
    corresponding: bool = False


class TitleBlock(Struct, frozen=True):
    """What stands at the head of a page."""

    title: Inlines = ()
    subtitle: Inlines = ()
    authors: tuple[Person, ...] = ()
    date: str = ""
    abstract: Blocks = ()
    keywords: tuple[Inlines, ...] = ()
    label: str = ""
    """What pointers call it by, where the title was a heading of the text."""


class ContentsEntry(Struct, frozen=True):
    level: int
    number: str
    label: str
    children: Inlines
    is_part: bool = False
    """Whether a part of a volume begins there."""
    page: str = ""
    """In a work of several pages: the name of the page that has it; empty for the same page."""


class Composed(Struct, frozen=True):
    """A page with all its answers in place: what the outputs write."""

    head: TitleBlock
    blocks: Blocks
    contents: tuple[ContentsEntry, ...]
    plain_title: str
    terms: Language
    """All that outputs say of their own, in the language of the page."""
    language: str = "en"
    """As a BCP 47 tag."""
    words: int = 0
    """How many its text has, without code, tables and references."""
    files: tuple[str, ...] = ()
    """Images that were read, as paths the system knows."""
    number: str = ""
    """In a volume: that of the chapter that the page is; so the word before it."""
    word: str = ""
    host: str = ""
    """The ending of a page in a language other than Markdown: only its results are here."""


# What a composed page is made of: writers match all of it, and the type checker names those that lack a node.

ComposedInline = (
    Text | Emphasis | Strong | Strike | Superscript | Raised | SmallCaps | Code | Link | SoftBreak | HardBreak | RawHtmlInline
    | Footnote | Math | InlinePicture | Citation | Answered | Anchor
)  # fmt: skip
ComposedBlock = (
    Heading | PartTitle | Paragraph | Quote | List | Definitions | Rule | RawHtmlBlock | Container | ChunkView | CodeBlock | OutputText
    | Figure | TableBlock | MathBlock | RichHtml | ContentsList | IndexList | ReferenceList | AppendixBreak | SheetBreak | SlideBreak
    | AboutHere
)  # fmt: skip


_INLINES, _BLOCKS = frozenset(get_args(ComposedInline)), frozenset(get_args(ComposedBlock))


def composed_inline(node: Inline) -> ComposedInline:
    """Running text of a composed page. Raises `TypeError` for what composing should have answered."""
    if type(node) in _INLINES:
        return node  # type: ignore[return-value]
    raise TypeError(f"{type(node).__name__} has not been composed")


def composed_block(node: Block) -> ComposedBlock:
    """A block of a composed page. Raises `TypeError` for what composing should have answered."""
    if type(node) in _BLOCKS:
        return node  # type: ignore[return-value]
    raise TypeError(f"{type(node).__name__} has not been composed")
