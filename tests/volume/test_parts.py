"""Parts of binding by themselves: what is searched, one tree of many pages, drafts that are kept, what machines are told."""

import json
import pickle
import unittest
from typing import Any

from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from tests.compose.drafts import ComposeCase
from wornpage.compose.chapters import Chapter
from wornpage.compose.page import Work
from wornpage.output.site import Around, Site, SitePage
from wornpage.store.blocks import keep_in
from wornpage.store.place import make_store
from wornpage.tree import nodes as n
from wornpage.tree.counting import roman
from wornpage.tree.walk import walk, words_of
from wornpage.volume.announcing import citation_file, feed, site_map
from wornpage.volume.keeping import Drafted, _OwnOnly, _packed, keep, kept, lifted, mentions_of
from wornpage.volume.searching import Searched, index_of, terms_of
from wornpage.volume.whole import Placed, alone, joined

FIRST = """---
title: Paper
---
# Kinds {#kinds}

| n |
|---|
| 1[^n] |

Caption: Sheets.
Label: sheets

See {see hides, kinds}, [there](#hides).{index fibre: long}{index fibre}

[^n]: A note with {see second}.
"""
SECOND = """---
title: Leather
abstract: On {see sheets}.
---
# Kinds {#kinds}

$$ h = 1 $$
Label: hides

Text[^n] {see first/kinds}.

[^n]: Another.

{index}
"""


class Pages(ComposeCase):
    """Two pages of a volume."""

    def setUp(self) -> None:
        super().setUp()
        first, second = self.draft("first.md", FIRST), self.draft("second.md", SECOND)
        self.drafts = [
            replace(first, chapter=Chapter("first", 0, "1")),
            replace(second, chapter=Chapter("second", 1, "2")),
        ]
        self.work = Work(self.drafts)

    def whole(self) -> n.Composed:
        """Both as one document."""
        leaves = [Placed(draft.key, self.work.composed(at)[0], part=at) for at, draft in enumerate(self.drafts)]
        front = n.Composed(n.TitleBlock(), (), (), "All", self.drafts[0].language)
        return joined(front, leaves, [("I", "One"), ("II", "Two")])


class Whole(Pages):
    def test_every_link_leads_to_a_place_and_no_place_is_there_twice(self) -> None:
        page = self.whole()
        nodes = list(walk(page.blocks))
        places: list[str] = []
        for node in nodes:
            label = getattr(node, "label", "") or getattr(node, "anchor", "")
            places += [label] if label and not isinstance(node, n.Container) else []
        self.assertEqual(len(places), len(set(places)))
        wanted = {node.to for node in nodes if isinstance(node, n.Link) and node.to}
        wanted |= {place.label for node in nodes if isinstance(node, n.IndexList) for one in node.entries for place in (*one.places, *(p for below in one.narrower for p in below.places))}  # fmt: skip
        wanted |= {entry.label for entry in page.contents}
        self.assertLessEqual(wanted, set(places))
        self.assertTrue(all(not node.page for node in nodes if isinstance(node, n.Link)))
        self.assertEqual([(one.level, one.number, words_of(one.children)) for one in page.contents], [
            (1, "I", "One"), (1, "1", "Paper"), (2, "1.1", "Kinds"), (1, "II", "Two"), (1, "2", "Leather"), (2, "2.1", "Kinds"),
        ])  # fmt: skip

    def test_notes_count_through(self) -> None:
        notes = {node.key: node.number for node in walk(self.whole().blocks) if isinstance(node, n.Footnote)}
        self.assertEqual(sorted(notes.values()), [1, 2])

    def test_a_page_alone_has_no_links_to_others(self) -> None:
        for at in range(2):
            page = alone(self.work.composed(at)[0])
            trees = (*page.head.abstract, *page.blocks)
            self.assertEqual([node for node in walk(trees) if isinstance(node, n.Link) and node.page], [])

    def test_facts_change_with_what_is_said_and_not_with_where_it_stands(self) -> None:
        def facts(second: str) -> list[object]:
            drafts = [self.drafts[0], replace(self.draft("second.md", second), chapter=Chapter("second", 1, "2"))]
            return Work(drafts).facts(0, mentions_of(drafts[0]))

        same = facts(SECOND)
        self.assertEqual(facts(SECOND.replace("# Kinds", "\n\n\n# Kinds")), same, "lines further down")
        self.assertEqual(facts(SECOND.replace("Another.", "One more.")), same)
        self.assertNotEqual(
            facts(SECOND.replace("$$ h", "$$ g = 0 $$\nLabel: g\n\n$$ h")), same, "the number of what it points to"
        )
        self.assertNotEqual(
            facts(SECOND.replace("title: Leather", "title: Hides")), same, "the title of a page that it names"
        )


class Keeping(Pages):
    def test_drafts_come_back_as_they_were_and_nothing_else_does(self) -> None:
        store = self.folder / ".worn/store/2"
        make_store(store)
        keep_in(store)
        self.addCleanup(keep_in, None)
        drafted = Drafted(self.drafts[0], data=("a.csv",), code=(("python", "x"),), mentions=("hides",))
        known = keep("page", drafted)
        found = kept("page", known)
        assert found is not None
        self.assertEqual((found.draft.blocks, found.draft.head, found.data, found.code, found.mentions), (drafted.draft.blocks, drafted.draft.head, ("a.csv",), (("python", "x"),), ("hides",)))  # fmt: skip
        again = Work([replace(found.draft, chapter=Chapter("first", 0, "1")), self.drafts[1]])
        self.assertEqual(again.composed(0)[0].blocks, self.work.composed(0)[0].blocks)
        self.assertIsNone(kept("page", "0" * 32), "a draft that is not the one that is meant")
        self.assertIsNone(kept("other", known))

    def test_only_structs_of_our_own_are_read(self) -> None:
        import io

        for evil in (print, pickle.loads, unittest.TestCase):
            with self.assertRaises(pickle.UnpicklingError):
                _OwnOnly(io.BytesIO(pickle.dumps(evil))).load()
        self.assertIsInstance(_packed(Drafted(self.drafts[0])), bytes)

    def test_a_first_heading_becomes_the_title_where_that_is_plain(self) -> None:
        for text, title in {
            "# A\n\n## B\n": "A", "# A\n\n# B\n": "", "Words.\n\n# A\n": "", "---\ntitle: T\n---\n# A\n": "T", "## A\n\ntext\n": "A", "": "",
        }.items():  # fmt: skip
            self.assertEqual(words_of(lifted(self.draft("x.md", text)).head.title), title, text)


class Searching(Pages):
    def read(self) -> dict[str, Any]:
        pages = [Searched(f"{at}.html", f"Page {at}", lambda at=at: self.work.composed(at)[0], "") for at in range(2)]  # type: ignore[misc]
        text = index_of(pages).decode()
        found: dict[str, Any] = json.loads(text.removeprefix("wornIndex(").removesuffix(");\n"))
        return found

    def docs_with(self, index: dict[str, Any], term: str) -> list[tuple[int, str]]:
        """Page and place of all that a term is found in, read as the script reads it."""
        at, doc, found = index["terms"].split(" ").index(term), 0, []
        for pair in index["lists"][at].split(" "):
            doc += int(pair.partition(".")[0], 36)
            found.append((index["docs"][doc][0], index["docs"][doc][1]))
        return found

    def test_each_section_is_found_by_what_it_says(self) -> None:
        index = self.read()
        self.assertEqual(index["pages"], [["0.html", "Page 0"], ["1.html", "Page 1"]])
        self.assertEqual(self.docs_with(index, "sheets"), [(0, "kinds")])
        self.assertEqual(self.docs_with(index, "note"), [(0, "kinds")], "in the cell of a table")
        self.assertEqual(self.docs_with(index, "another"), [(1, "kinds")], "in a note")
        self.assertEqual(self.docs_with(index, "kinds"), [(0, "kinds"), (1, "kinds")])
        terms = index["terms"].split(" ")
        self.assertEqual(terms, sorted(terms, key=lambda one: one.encode("utf-16-be")), "as the script looks them up")

    def test_terms_are_without_accents_and_parted_where_scripts_are_not(self) -> None:
        self.assertEqual(
            list(terms_of("Größe, NAÏVE x_1: 漢字検索 日 ok")),
            ["grosse", "naive", "x_1", "漢字", "字検", "検索", "日", "ok"],
        )

    @given(st.text(max_size=60))
    def test_whatever_is_written_gives_terms_that_the_index_can_hold(self, text: str) -> None:
        for term in terms_of(text):
            self.assertTrue(term and not term.isspace() and " " not in term)


class Announcing(unittest.TestCase):
    def test_names_and_addresses_are_escaped_everywhere(self) -> None:
        page = SitePage("a", "a b/<c>.html", (), "", 'T <b>&"', "1")
        site = Site('S <b>&"', (page,), address="https://x.example/?a&b")
        head = n.TitleBlock(authors=(n.Person('Ann "A" <Lee>', ('Lab & "Co"',), "a@b.example"), n.Person("Solo")))
        for made in (site_map(site), feed(site, head, "2026-03-09")):
            from lxml import etree

            etree.fromstring(made)
            self.assertNotIn(b"<b>", made)
        from ruamel.yaml import YAML

        told = YAML(typ="safe").load(citation_file(site.title, head, "2026-03-09", site.address))
        self.assertEqual(told["title"], site.title)
        self.assertEqual([one["family-names"] for one in told["authors"]], ["<Lee>", "Solo"])

    def test_ways_from_page_to_page(self) -> None:
        pages = (SitePage("a", "a.html", (), "", "A"), SitePage("b", "x/y z.html", (), "", "B"))
        site = Site("S", pages)
        self.assertEqual(Around(site, "a").to_page("b"), "x/y%20z.html")
        self.assertEqual(Around(site, "b").to_page("a"), "../a.html")
        self.assertEqual((Around(site, "b").to_page("b"), Around(site, "b").to_page("nobody")), ("", ""))
        self.assertEqual(Around(site, "b").to(site.start), "../index.html")

    def test_roman_numbers(self) -> None:
        self.assertEqual(
            [roman(number) for number in (1, 4, 9, 14, 40, 1999)], ["I", "IV", "IX", "XIV", "XL", "MCMXCIX"]
        )
