"""The texts of the front matter as trees, so that marks in them can be asked and answered."""

from __future__ import annotations

from msgspec import Struct

from wornpage.settings import Settings
from wornpage.source import Page, build, build_inlines
from wornpage.tree import nodes as n
from wornpage.tree.problem import Problem


class Head(Struct, frozen=True):
    """Title, subtitle, abstract, keywords and date, read but not yet answered."""

    title: n.Inlines
    subtitle: n.Inlines
    abstract: n.Blocks
    keywords: tuple[n.Inlines, ...]
    date: n.Inlines
    problems: tuple[Problem, ...]

    def nodes(self) -> tuple[n.Node, ...]:
        """Everything in it, for whoever looks for marks."""
        keywords = tuple(node for keyword in self.keywords for node in keyword)
        return (*self.title, *self.subtitle, *self.abstract, *keywords, *self.date)


def read_head(page: Page, settings: Settings) -> Head:
    """Read the texts of `page`'s front matter."""
    problems: list[Problem] = []

    def inlines(text: str, *path: str | int) -> n.Inlines:
        found, faults = build_inlines(text, settings.place(*path))
        problems.extend(faults)
        return found

    front = settings.page
    date = "" if front.date == "when-pressed" else front.date
    return Head(
        inlines(front.title, "title"),
        inlines(front.subtitle, "subtitle"),
        _abstract(page, settings, problems),
        tuple(inlines(word, "keywords", place) for place, word in enumerate(front.keywords)),
        inlines(date, "date"),
        tuple(problems),
    )


def _abstract(page: Page, settings: Settings, problems: list[Problem]) -> n.Blocks:
    text = settings.page.abstract
    if not text:
        return ()
    line = settings.place("abstract").line
    written = page.text.split("\n")[line - 1]
    line += written.rstrip().endswith(("|", ">", "|-", ">-", "|+", ">+"))
    built = build("\n" * (line - 1) + text, page.name)
    problems += built.problems
    return built.blocks
