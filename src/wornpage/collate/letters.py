"""What a document says, letter by letter: each with its look, the mark it belongs to, and who wrote it."""

from __future__ import annotations

from msgspec import Struct, field

NOTE, FORMULA, PICTURE = "\u2a00", "\u2a01", "\ufffc"
"""Stand for what is no letter."""
BREAK = "\u2029"
"""Stands between two paragraphs."""


class By(Struct, frozen=True, gc=False):
    """Who made a tracked change, and when."""

    author: str = ""
    date: str = ""


class Letter(Struct, frozen=True, gc=False):
    """One letter, or one thing among letters."""

    text: str
    looks: frozenset[str] = frozenset()
    """`em`, `strong`, `strike`, `code`, `link:` with its address, and looks that pages do not have."""
    key: str = ""
    """Of the mark that it belongs to, as `line_column`."""
    what: str = ""
    """Of a thing: the number of a note, the letters of a formula."""
    by: By | None = None
    comments: tuple[str, ...] = ()
    """The comments it belongs to, by their numbers."""
    cut: By | None = None
    """Who has taken something away just before it."""


class Paragraph(Struct):
    """One paragraph of a document."""

    kind: str
    """`p`, `h`, `li`, `quote`, `cell`, `caption`, `note`, `term`, `meaning`, `code`, `output`, `figure`, `formula`, `contents`, `title`, `reference`."""
    letters: list[Letter]
    keys: list[str] = field(default_factory=list)
    """Of the bookmarks around it: where in the source it was written."""
    level: int = 0
    ordered: bool = False
    style: str = ""
    table: int = -1
    row: int = -1
    column: int = -1
    note: str = ""
    by: By | None = None
    """Who added it, or took away what parted it from the next."""
    is_handed_down: bool = False
    """Whether it looks as the paragraph that was taken away before it did: some programs hand that down."""

    @property
    def text(self) -> str:
        """What it says."""
        return "".join(letter.text for letter in self.letters)


class Comment(Struct, frozen=True):
    """A remark of a reviewer."""

    number: str
    author: str
    date: str
    text: str
    answers: str = ""
    """The number of the comment it answers."""
    done: bool = False


class Document(Struct, frozen=True):
    """A document as read."""

    paragraphs: list[Paragraph]
    """Those of the body, then those of the notes that are called."""
    comments: dict[str, Comment]
    has_marks: bool
    """Whether our bookmarks came back."""
    authors: tuple[str, ...] = ()
    """Who has tracked changes or comments in it."""
