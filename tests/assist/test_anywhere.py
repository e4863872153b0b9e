"""What an editor may ask, of any text and any place in it."""

from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.support import FolderCase
from wornpage.assist.completing import suggestions
from wornpage.assist.document import Document
from wornpage.assist.looking import defined_at, label_at, outline, said_of, unfit, uses_of

PAGE = """\
---
title: Damp
chunks: {fit: {width: 12cm}}
press:
  html:
    contents: side
---

# The rooms {#rooms}

```python run #fit
x = 1
```
Caption: A fit of {= x}.

See {see fit, rooms}; [there](#fit).

## Below

### Deeper

# Next

{insert "a part.md"}
{insert code lib.py part="f"}
"""
PIECES = [
    "---\n", "title: x\n", "press:\n  html:\n    co", "# Head {#a}\n", "{see ", "a, b}", "{cite x", "{= 1 as ", "}", "{insert ", "{insert code ",
    "```python run #a sh", "```\n", "given.", "Caption: c\n", "Label: a\n", "\n", "\n\n", "[x](#a)", "ü😀", "$x", ":::", "| a |\n|---|\n",
]  # fmt: skip


class Anywhere(FolderCase):
    @settings(deadline=None, max_examples=150)
    @given(st.lists(st.sampled_from(PIECES), max_size=14).map("".join), st.integers(-1, 20), st.integers(0, 60))
    def test_every_question_is_answered(self, text: str, line: int, column: int) -> None:
        document = Document(Path("/nowhere/p.md"), text)
        self.assertIsInstance(said_of(document, line, column), str)
        defined_at(document, line, column)
        label = label_at(document, line, column)
        for row, first, last in uses_of(document, label or "a"):
            self.assertEqual(document.lines[row][first:last], label or "a")
        for one in outline(document):
            self.assertLessEqual(one.line, one.last)
        if 0 <= line < len(document.lines):
            suggestions(document, line, column)

    def setUp(self) -> None:
        super().setUp()
        self.write("a part.md", "More.")
        self.write("lib.py", "def f(): pass\n")
        self.page = self.write("p.md", PAGE.encode())

    def at(self, words: str, offset: int = 0) -> tuple[Document, int, int]:
        """The place at which some words of the page begin."""
        before = PAGE[: PAGE.index(words) + offset]
        return Document(self.page, PAGE), before.count("\n"), len(before.rpartition("\n")[2])

    def test_files_are_found_also_in_quotes_and_code(self) -> None:
        for words, file in (('{insert "a', "a part.md"), ("{insert code", "lib.py")):
            place = defined_at(*self.at(words, 3))
            self.assertEqual(place and Path(place.file).name, file)

    def test_a_label_is_found_wherever_it_stands(self) -> None:
        document, line, column = self.at("fit, rooms")
        self.assertEqual(label_at(document, line, column), "fit")
        self.assertEqual([row + 1 for row, _, _ in uses_of(document, "fit")], [3, 11, 16, 16])
        self.assertEqual(defined_at(document, line, column), defined_at(*self.at("fit, rooms", 2)))
        self.assertEqual(
            (unfit(document, "new-name"), bool(unfit(document, "rooms")), bool(unfit(document, "a b"))),
            ("", True, True),
        )

    def test_the_outline_is_nested_as_the_headings_are(self) -> None:
        rooms, following = outline(Document(self.page, PAGE))
        self.assertEqual((rooms.name, [one.name for one in rooms.below]), ("The rooms", ["fit", "Below"]))
        self.assertEqual([one.name for one in rooms.below[1].below], ["Deeper"])
        self.assertEqual((following.name, following.below), ("Next", ()))

    def test_what_may_stand_here(self) -> None:
        for words, offset, wanted in (
            ("See {see fit", 9, "rooms"),
            ("```python run #fit", 18, "width="),
            ("    contents: side", 14, "side"),
            ("    contents: side", 6, "contents:"),
            ("press:", 0, "title:"),
        ):
            with self.subTest(words):
                found = [one.text for one in suggestions(*self.at(words, offset))]
                self.assertIn(wanted, found)
