"""Pages composed without running anything: what many tests of composing begin with."""

import datetime

from tests.support import FolderCase
from wornpage.compose import compose_pages, read_head
from wornpage.compose.answering import Draft, answer
from wornpage.plan.record import Record
from wornpage.settings import settle
from wornpage.source import read_page
from wornpage.tree import nodes as n
from wornpage.tree.problem import Problem
from wornpage.tree.walk import walk, words_of


class ComposeCase(FolderCase):
    """A test with a folder in which pages are written and composed."""

    def draft(self, name: str, text: str) -> Draft:
        """A page of which everything that sessions say is known, which is nothing."""
        page = read_page(self.write(name, text), name)
        settings, _ = settle(page)
        return answer(page, settings, read_head(page, settings), Record({}, {}, ()), datetime.date(2026, 1, 2))

    def composed(self, text: str) -> tuple[n.Composed, list[Problem]]:
        """One page and what is wrong with it."""
        ((page, problems),) = compose_pages([self.draft("page.md", text)])
        return page, list(problems)

    def sound(self, text: str) -> n.Composed:
        """One page, with which nothing is wrong."""
        page, problems = self.composed(text)
        self.assertEqual([problem.what for problem in problems], [])
        return page


def links_of(page: n.Composed) -> list[tuple[str, str, str]]:
    """Words, label and page of every link to a label."""
    found = [one for one in walk(page.blocks) if isinstance(one, n.Link) and one.to]
    return [(words_of(one.children), one.to, one.page) for one in found]


def paragraphs_of(page: n.Composed) -> list[str]:
    """The words of every paragraph, spaces that do not break as plain ones."""
    found = [one for one in walk(page.blocks) if isinstance(one, n.Paragraph)]
    return [words_of(one.children).replace("\u00a0", " ") for one in found]
