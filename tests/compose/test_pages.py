"""Several pages composed as one work: one order of numbers and of citations, pointers from each to all."""

import datetime
import unittest

from msgspec import Struct

from tests.support import FolderCase
from wornpage.compose import compose_pages, read_head
from wornpage.compose.answering import Draft, answer
from wornpage.plan.record import Record
from wornpage.settings import settle
from wornpage.source import read_page
from wornpage.tree import nodes as n
from wornpage.tree.walk import walk, words_of

BOOKS = """
@book{reed, author = {Reed, Ann}, title = {Damp}, year = {2001}, publisher = {Quay}}
@book{moss, author = {Moss, Bob}, title = {Acid}, year = {2002}, publisher = {Quay}}
"""
FIRST = """---
bibliography: b.bib
---
# Paper {#start}

| n |
|---|
| 1 |

Caption: Sheets.
Label: sheets

See {see leather, hides} and {cite moss}; [there](#leather).
"""
SECOND = """---
bibliography: b.bib
---
# Leather

| n |
|---|
| 2 |

Caption: Hides.
Label: hides

See {see sheets, hides, leather} and {cite reed; moss}. {see no-such}
"""


class Made(Struct):
    page: n.Composed
    problems: list[str]

    def links(self) -> list[tuple[str, str, str]]:
        """Words, label and page of every link to a label."""
        return [(words_of(one.children), one.to, one.page) for one in walk(self.page.blocks) if isinstance(one, n.Link)]


class Pages(FolderCase):
    def draft(self, name: str, text: str) -> Draft:
        page = read_page(self.write(name, text), name)
        settings, _ = settle(page)
        return answer(page, settings, read_head(page, settings), Record({}, {}, ()), datetime.date(2026, 1, 2))

    def composed(self) -> list[Made]:
        self.write("b.bib", BOOKS)
        drafts = [self.draft("first.md", FIRST), self.draft("second.md", SECOND)]
        return [Made(page, [problem.what for problem in problems]) for page, problems in compose_pages(drafts)]

    def test_numbers_go_on_and_pointers_lead_to_the_other_page(self) -> None:
        first, second = self.composed()
        self.assertEqual([entry.number for entry in second.page.contents], ["2", ""])
        self.assertIn(("Section\u00a02", "leather", "second.md"), first.links())
        self.assertIn(("there", "leather", "second.md"), first.links())
        self.assertIn(("1", "sheets", "first.md"), second.links())
        self.assertIn(("2", "hides", ""), second.links())
        self.assertEqual(first.problems, [])
        self.assertEqual(second.problems, ["nothing is labelled 'no-such'."])

    def test_one_list_of_references_stands_on_the_last_page_and_leads_back_to_both(self) -> None:
        first, second = self.composed()
        self.assertFalse([node for node in walk(first.page.blocks) if isinstance(node, n.ReferenceList)])
        (listed,) = [node for node in walk(second.page.blocks) if isinstance(node, n.ReferenceList)]
        backs = {entry.anchor: entry.backs for entry in listed.entries}
        self.assertEqual(backs["ref-moss"], (n.Spot("cite-1", "first.md"), n.Spot("cite-2")))
        self.assertIn("second.md", {page for _, to, page in first.links() if to.startswith("ref-")})
        self.assertEqual({page for _, to, page in second.links() if to.startswith("ref-")}, {""})


if __name__ == "__main__":
    unittest.main()
