"""Decks made of a page's text, without writing anything."""

from __future__ import annotations

import datetime
import textwrap
from pathlib import Path

from tests.support import FolderCase
from wornpage.output.deck.model import Deck, Slide
from wornpage.output.deck.parting import deck_of
from wornpage.output.outputs import options_in
from wornpage.press.orders import Order
from wornpage.press.story import composed_for, proof_of
from wornpage.tree import nodes as n
from wornpage.tree.problem import Problem
from wornpage.tree.walk import walk, words_of


class DeckCase(FolderCase):
    """A test of how pages become slides."""

    def deck(self, text: str, kind: str = "slides") -> tuple[Deck, list[Problem]]:
        """The slides of a page, and what is told of them."""
        path = self.write("page.md", text)
        today = datetime.date(2031, 3, 12)
        proof = proof_of(Order(path, "page.md", (kind,)), today=today)
        page, problems = composed_for(kind, proof, today)
        deck, further = deck_of(page, options_in(proof.settings.page, "slides"), kind)
        return deck, [*proof.warnings, *problems, *further]

    def slides(self, text: str) -> list[str]:
        """A line a slide: its kind, its title, and the words and things on it."""
        return [told(slide) for slide in self.deck(text)[0].slides]


def told(slide: Slide) -> str:
    """A slide in a line."""
    part = f" {slide.part}/{slide.parts}" if slide.part else ""
    steps = f" +{slide.steps}" if slide.steps else ""
    found = [shown for node in walk(slide.blocks) if (shown := _shown(node))]
    return f"{slide.kind} {words_of(slide.title)}{part}{steps}: {' | '.join(found)}"


def _shown(node: n.Node) -> str:
    match node:
        case n.Paragraph(children=children):
            return words_of(children)
        case n.Heading(children=children):
            return f"# {words_of(children)}"
        case n.CodeBlock():
            return "code"
        case n.OutputText(text=text):
            return f"> {text}"
        case n.Figure() | n.TableBlock():
            return type(node).__name__
    return ""


def text(page: str) -> str:
    """A page without its common indentation."""
    return textwrap.dedent(page).removeprefix("\n")


__all__ = ["DeckCase", "Path", "text", "told"]
