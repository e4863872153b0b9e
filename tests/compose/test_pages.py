"""Several pages composed as one work: one order of numbers and of citations, pointers from each to all."""

import unittest

from tests.compose.drafts import ComposeCase, links_of
from wornpage.compose import compose_pages
from wornpage.tree import nodes as n
from wornpage.tree.walk import walk

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


class Pages(ComposeCase):
    def pages(self) -> list[tuple[n.Composed, list[str]]]:
        self.write("b.bib", BOOKS)
        drafts = [self.draft("first.md", FIRST), self.draft("second.md", SECOND)]
        return [(page, [problem.what for problem in problems]) for page, problems in compose_pages(drafts)]

    def test_numbers_go_on_and_pointers_lead_to_the_other_page(self) -> None:
        (first, sound), (second, problems) = self.pages()
        self.assertEqual([entry.number for entry in second.contents], ["2", ""])
        self.assertIn(("Section\u00a02", "leather", "second.md"), links_of(first))
        self.assertIn(("there", "leather", "second.md"), links_of(first))
        self.assertIn(("1", "sheets", "first.md"), links_of(second))
        self.assertIn(("2", "hides", ""), links_of(second))
        self.assertEqual((sound, problems), ([], ["nothing is labelled 'no-such'."]))

    def test_one_list_of_references_stands_on_the_last_page_and_leads_back_to_both(self) -> None:
        (first, _), (second, _) = self.pages()
        self.assertFalse([node for node in walk(first.blocks) if isinstance(node, n.ReferenceList)])
        (listed,) = [node for node in walk(second.blocks) if isinstance(node, n.ReferenceList)]
        backs = {entry.anchor: entry.backs for entry in listed.entries}
        self.assertEqual(backs["ref-moss"], (n.Spot("cite-1", "first.md"), n.Spot("cite-2")))
        self.assertIn("second.md", {page for _, to, page in links_of(first) if to.startswith("ref-")})
        self.assertEqual({page for _, to, page in links_of(second) if to.startswith("ref-")}, {""})


if __name__ == "__main__":
    unittest.main()
