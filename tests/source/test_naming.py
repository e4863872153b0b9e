"""Labels that are made of words and places: each once, whatever the words are."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from tests.support import FolderCase
from wornpage.source import read_page
from wornpage.source.naming import fresh_label, slug, stem_of
from wornpage.tree import nodes as n
from wornpage.tree.problem import PageError
from wornpage.tree.walk import walk


class Words(unittest.TestCase):
    def test_letters_of_every_script_are_kept(self) -> None:
        for words, label in (
            ("The Wear of Paper!", "the-wear-of-paper"), ("Größe & Gewicht", "größe-gewicht"), ("图书馆 2", "图书馆-2"), ("snake_case", "snake-case"),
            ("— … —", ""), ("ﬁne ﬂow", "fine-flow"), ("  a  ", "a"),
        ):  # fmt: skip
            self.assertEqual(slug(words), label)
        self.assertEqual(fresh_label("…", {"section", "section-2"}), "section-3")

    def test_files_are_known_by_letters_that_any_address_takes(self) -> None:
        for file, label in (
            ("parts/One page.md", "One-page"),
            ("C:\\a\\Größe.md", "Große"),
            ("日本.md", "file"),
            ("a.b.md", "a"),
        ):
            self.assertEqual(stem_of(file), label.replace("ß", ""))

    @given(st.lists(st.text(alphabet="ab -é1", max_size=4), max_size=12))
    def test_no_label_stands_twice(self, texts: list[str]) -> None:
        taken: set[str] = set()
        for text in texts:
            label = fresh_label(text, taken)
            self.assertNotIn(label, taken)
            self.assertRegex(label, r"^[\w-]+$")
            taken.add(label)


class Pages(FolderCase):
    def labels(self, text: str, kind: type[n.Node]) -> list[str]:
        page = read_page(self.write("page.md", text), "page.md")
        return [getattr(node, "label", "") for node in walk(page.blocks) if isinstance(node, kind)]

    def test_chunks_without_a_label_are_named_for_their_heading(self) -> None:
        chunk = "```python run\n1\n```\n"
        text = f"{chunk}\n# Überblick\n\n{chunk}\n{chunk}\n# 図書\n\n{chunk}\n# Damp {{#wet}}\n\n```python run #wet-1\n1\n```\n\n{chunk}"
        self.assertEqual(
            self.labels(text, n.Chunk), ["top-1", "uberblick-1", "uberblick-2", "section-1", "wet-1", "wet-2"]
        )
        clash = f"# A\n\n```python run #A-2\n1\n```\n\n{chunk}"
        self.assertEqual(len(set(self.labels(clash, n.Chunk))), 2)

    def test_headings_of_the_same_words_are_told_apart_and_written_labels_win(self) -> None:
        text = "# Damp\n\n# Damp\n\n# Other {#damp-3}\n\n# Damp\n\n# …\n"
        self.assertEqual(self.labels(text, n.Heading), ["damp", "damp-2", "damp-3", "damp-4", "section"])

    def test_labels_given_twice_are_told_with_both_places(self) -> None:
        for text, line in (
            ("```python run #a\n1\n```\n\n```python run #a\n1\n```\n", 5),
            ("# A {#x}\n\n# B {#x}\n", 3),
            ("| n |\n|---|\n| 1 |\n\nLabel: x\n\n# B {#x}\n", 7),
        ):
            with self.subTest(text), self.assertRaises(PageError) as caught:
                self.html(text)
            (problem,) = caught.exception.problems
            self.assertEqual(problem.span.line, line)
            self.assertIn("already", problem.what)


if __name__ == "__main__":
    unittest.main()
