"""The index: terms in order, narrower ones below, ways to others; a mark shows nothing where it stands."""

from tests.compose.drafts import ComposeCase, paragraphs_of
from wornpage.compose.indexing import letter_of
from wornpage.tree import nodes as n
from wornpage.tree.walk import walk

PAGE = """
# Paper

Rag{index rag} and pulp{index paper: wood pulp}, wet{index damp} once more{index rag}.{index Äther}

- In a list{index paper: of rags}.[^a]

[^a]: In a note{index note}.

| n{index cell} |
|---|
| 1 |

Caption: Seen{index caption}.

## Mould

Words{index mould see damp}{index damp see also mould}{index damp}. `{index code}` and \\{index text}.

{index}
"""


class Index(ComposeCase):
    def entries(self, text: str) -> tuple[n.IndexEntry, ...]:
        page = self.sound(text)
        return next(one for one in walk(page.blocks) if isinstance(one, n.IndexList)).entries

    def test_terms_stand_in_order_with_all_their_places(self) -> None:
        found = {one.words: one for one in self.entries(PAGE)}
        self.assertEqual(list(found), ["Äther", "caption", "cell", "damp", "mould", "note", "paper", "rag"])
        self.assertEqual([one.said for one in found["rag"].places], ["1", "1"])
        self.assertEqual(
            [one.said for one in found["damp"].places], ["1", "1.1"], "the sections that they are named in"
        )
        self.assertEqual([one.words for one in found["paper"].narrower], ["of rags", "wood pulp"])
        self.assertEqual(found["paper"].places, ())
        self.assertEqual((found["mould"].see, found["mould"].places, found["damp"].also), (("damp",), (), ("mould",)))

    def test_every_entry_leads_to_a_place_of_its_own(self) -> None:
        page = self.sound(PAGE)
        there = [node.label for node in walk(page.blocks) if isinstance(node, n.Anchor)]
        led = [place.label for one in self.entries(PAGE) for each in (one, *one.narrower) for place in each.places]
        self.assertEqual(len(there), len(set(there)))
        self.assertEqual(set(there), set(led))
        self.assertIn("Rag and pulp, wet once more.", paragraphs_of(page))
        self.assertFalse([node for node in walk(page.blocks) if isinstance(node, n.IndexMark)])

    def test_what_names_no_term_is_told_and_what_is_no_mark_is_text(self) -> None:
        _, problems = self.composed("Words {index }.\n")
        draft = self.draft("p.md", "Words {index }.\n")
        told = [problem.what for problem in (*draft.page.problems, *problems)]
        self.assertEqual(told, ["this mark names no term for the index."])
        hints = [problem.hint for problem in self.draft("p.md", "{index a} {indexes b}").page.problems]
        self.assertEqual(hints, ["Did you mean 'index'?"])

    def test_letters(self) -> None:
        self.assertEqual([letter_of(word) for word in ("Äther", "ßa", "1st", "漢字", "ab")], ["A", "S", "#", "漢", "A"])
