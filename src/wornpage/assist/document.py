"""A page as an editor has it, perhaps unsaved and half written."""

from __future__ import annotations

from functools import cached_property
from pathlib import Path

from msgspec import Struct

from wornpage.press import examine
from wornpage.settings import Settings
from wornpage.source import Page, all_blocks, parse_page
from wornpage.sources.collecting import collection
from wornpage.sources.entries import Library, read_library
from wornpage.tree import nodes as n
from wornpage.tree.project import PROJECT_FILE, VOLUME_FILE
from wornpage.tree.span import Span
from wornpage.tree.walk import walk, words_of


class Labelled(Struct, frozen=True):
    """Something that has a label."""

    label: str
    span: Span
    kind: str
    words: str
    """Its caption, or the words of a heading."""


class Document:
    """The page that a text makes; what is asked of it is found out once."""

    def __init__(self, path: Path, text: str) -> None:
        self.path, self.text = path, text
        self.lines = text.split("\n")

    @property
    def schema(self) -> str:
        """By which schema it is written, where it is no page but settings."""
        return {PROJECT_FILE: "project", VOLUME_FILE: "volume"}.get(self.path.name, "")

    @cached_property
    def page(self) -> Page:
        """The page, whatever is wrong with it."""
        return parse_page(self.text, self.path, self.path.name)

    @cached_property
    def settings(self) -> Settings:
        """Its settings; those that are wrong count as not set."""
        settings, _, _ = examine(self.page)
        return settings

    @cached_property
    def labels(self) -> dict[str, Labelled]:
        """Everything that can be pointed to, by label."""
        found: dict[str, Labelled] = {}
        for node in walk(all_blocks(self.page)):
            match node:
                case n.Heading(label=str(label), children=children) if label:
                    found.setdefault(label, Labelled(label, node.span, "heading", words_of(children)))
                case n.Chunk(label=label, named=True, captions=captions):
                    words = "; ".join(words_of(caption.children) for caption in captions)
                    found[label] = Labelled(label, node.span, "chunk", words)
                case n.PipeTable(label=str(label)) | n.Listing(label=str(label)) | n.PictureBlock(label=str(label)) if (
                    label
                ):
                    words = words_of(node.caption.children) if node.caption else ""
                    found[label] = Labelled(label, node.span, type(node).__name__.removesuffix("Block").lower(), words)
                case n.RawMathBlock(label=str(label), latex=latex) if label:
                    found[label] = Labelled(label, node.span, "formula", latex.strip())
                case n.Container() | n.Image() if node.attributes.label:
                    found[node.attributes.label] = Labelled(node.attributes.label, node.span, "block", "")
        return found

    @cached_property
    def library(self) -> Library:
        """The works that can be cited."""
        names = [(name, Span(self.path.name, 1)) for name in self.settings.page.bibliography]
        return read_library(names, self.path.parent)

    @property
    def collection(self) -> Library:
        """The works that their author has elsewhere."""
        return collection(self.settings.page.library, self.path.parent)

    def before(self, line: int, column: int) -> str:
        """The line up to a place; both counted from 0."""
        return self.lines[line][:column] if line < len(self.lines) else ""

    def chunk_at(self, line: int) -> n.Chunk | None:
        """The chunk whose fence or code stands in a line, counted from 0."""
        for chunk in self.page.chunks:
            last = chunk.code_line + chunk.code.count("\n")
            if chunk.span.file == self.path.name and chunk.span.line - 1 <= line < last:
                return chunk
        return None

    @property
    def front_lines(self) -> int:
        """How many lines the front matter takes, with its rules."""
        if not self.lines or self.lines[0].strip() != "---":
            return 0
        return next((place for place, line in enumerate(self.lines[1:], 2) if line.strip() in {"---", "..."}), 0)
