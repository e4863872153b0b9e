"""A language of print: all words that the tool itself says in a page."""

from __future__ import annotations

from msgspec import Struct


class Language(Struct, frozen=True, kw_only=True):
    """What the tool itself says in a page, in one language: all words of all outputs."""

    code: str
    """As BCP 47 tags begin."""
    locale: str
    """As Unicode's locale data have it, for dates."""
    right_to_left: bool = False
    decimal: str
    group: str
    """What stands between groups of three digits."""
    percent: str
    """What stands between a number and the percent sign, and the sign."""
    figure: tuple[str, str]
    """Singular and plural; so below."""
    table: tuple[str, str]
    listing: tuple[str, str]
    equation: tuple[str, str]
    section: tuple[str, str]
    appendix: tuple[str, str]
    chapter: tuple[str, str]
    part: tuple[str, str]
    references: str
    cited_at: str
    """Before the number of a place where an entry is cited."""
    conjunction: str
    contents: str
    abstract: str
    keywords: str
    yes_no: tuple[str, str]
    notes: str
    figures: str
    tables: str
    lines_cut: str
    rows_cut: str
    code_word: str
    running_title: str
    word_count: str
    corresponding: str
    about_here: str
    skip: str
    """To those who go through a page by keys: to the text, past the contents."""
    colophon: str
    """The heading of the record; its words follow."""
    pressed_with: str
    page_word: str
    libraries: str
    fonts: str
    """Of the system: those that letters of a PDF were taken from."""
    none: str
    """Of libraries."""
    given: str
    weaknesses: str
    no_weakness: str
    what: str
    how: str
    file: str
    holds: str
    chunk: str
    seed: str
    shows: str
    nothing: str
    drawn: str
    """What is said of a figure that says nothing of itself; `{label}` is that of its chunk."""
    words: dict[str, str]
    """Words of tables, by the names that sessions use."""
    volume: dict[str, str]
    """What works of many pages say around these."""
    slides: dict[str, str]
    """What slides say around themselves."""
    readers: dict[str, str]
    """What stands beside the tools that readers of a page have."""

    @property
    def minus(self) -> str:
        """Before digits; in scripts that run to the left it says that it stands left of them, where readers look for it."""
        return f"{self.digits_begin}\u2212"

    @property
    def digits_begin(self) -> str:
        """What holds the parts of a number together, from left to right, among words that run to the left."""
        return "\u200e" if self.right_to_left else ""

    def count(self, number: int) -> str:
        """How many, with the language's signs between thousands."""
        return f"{number:,}".replace(",", self.group)

    def length(self, words: int) -> str:
        """How long a text is."""
        return self.word_count.format(count=self.count(words))

    def word(self, name: str) -> str:
        """A word of tables; what follows a colon in its name is put into it."""
        key, _, part = name.partition(":")
        number = part.replace(".", self.decimal)
        return self.words.get(key, key).format(level=f"{number}{self.percent}")
