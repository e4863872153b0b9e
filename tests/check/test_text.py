"""What `worn check` finds in a page's text: labels, captions, images, listings, headings, long lines."""

import unittest

from tests.support import FolderCase
from wornpage.check import check_page

TABLE = "| n |\n|---|\n| 1 |\n"


class Text(FolderCase):
    def found(self, text: str, rule: str) -> list[tuple[int, str]]:
        """Lines and hints of what breaks a rule."""
        return [
            (one.problem.span.line, one.problem.what + " " + one.problem.hint)
            for one in check_page(self.write("page.md", text), "page.md")
            if one.rule == rule
        ]

    def lines(self, text: str, rule: str) -> list[int]:
        return [line for line, _ in self.found(text, rule)]

    def test_paragraphs_that_look_like_captions(self) -> None:
        for line, word in (
            ("Table: all loans", "Caption"), ("Figure 2: loans", "Caption"), ("Fig. 3: loans", "Caption"), ("caption: loans", "Caption"),
            ("CAPTION (table): loans", "Caption"), ("label: loans", "Label"),
        ):  # fmt: skip
            with self.subTest(line):
                ((number, said),) = self.found(f"{TABLE}\n{line}\n", "captions")
                self.assertEqual(number, 5)
                self.assertIn(f"Write `{word}: …`", said)
        self.write("part.md", "\n" * 30 + TABLE + "\nTable: in a file\n")
        self.assertEqual(self.lines("{insert part.md}\n", "captions"), [34])
        for line in ("Tables: all", "\\Caption: no", "Table 1 shows it.", "**Table:** no", "Caption: real"):
            with self.subTest(line):
                self.assertEqual(self.lines(f"{TABLE}\n{line}\n", "captions"), [])
        self.assertEqual(
            self.lines(
                f"Text.\n\nTable: of contents\n\n- a\n\n  ```python run\n  1\n  ```\n\n  Table: b\n\n> {TABLE.replace(chr(10), chr(10) + '> ')}\n>\n> Fig 1: c\n",
                "captions",
            ),
            [11, 18],
        )

    def test_pointers_and_labels_as_far_as_they_are_known(self) -> None:
        page = f"# Damp\n\n{TABLE}\nCaption: All.\nLabel: loans\n\n{{see loans}} {{see loan}} [a](#damp) [b](#dump) {{see made}}\n\n```python run #m\npage.table(1, 'x', label='made')\n```\n"
        self.assertEqual([("did you mean" in said.lower()) for _, said in self.found(page, "labels")], [True, True])
        self.assertEqual(
            self.found(page.replace("'made'", "name"), "labels"), []
        )  # code makes labels that cannot be read off it
        self.assertEqual(
            self.lines(f"{TABLE}\nCaption: A.\nLabel: x\n\n{TABLE}\nCaption: B.\nLabel: x\n", "labels"), [8]
        )

    def test_images_and_figures_without_words(self) -> None:
        self.write("a.svg", '<svg xmlns="http://www.w3.org/2000/svg" width="10" height="10"></svg>')
        page = "![](a.svg)\n\n![told](a.svg)\n\n![](a.svg)\n\nCaption: told\n\n```python run #p\nimport matplotlib.pyplot as plt\nplt.plot([1])\n```\n"
        self.assertEqual(self.lines(page, "alternative-text"), [1, 9])
        self.assertEqual(self.lines(page.replace("#p", "#p alt='a line'"), "alternative-text"), [1])
        self.assertEqual(self.lines(page.replace("plt.plot", "# plt.plot"), "alternative-text"), [1])
        self.assertEqual(self.lines("![a](b.png) ![a](a.svg)\n", "images"), [1])

    def test_listings_that_were_meant_to_run(self) -> None:
        page = "```python #load show=output\nx = 1\n```\n\n```python\nrooms = [1]\n```\n\n```python run #use\nlen(rooms)\n```\n\n```python\nother = 1\n```\n"
        self.assertEqual(self.lines(page, "listings"), [1, 5])

    def test_headings_that_say_the_same_in_one_place(self) -> None:
        page = "# Paper\n\n## Damp\n\n## damp\n\n# Leather\n\n## Damp\n\n## {= 1}\n\n## {= 1}\n"
        self.assertEqual(self.lines(page, "headings"), [5])

    def test_lines_and_figures_too_wide_for_a_sheet(self) -> None:
        long = "x = '" + "a" * 120 + "'"
        page = f"```python run #a width=30cm\n{long}\n```\n\n```python run #b show=output\n{long}\n```\n\n```python run #c\ny = 1  #~ {long}\n```\n"
        self.assertEqual(self.lines(page, "long-lines"), [2])
        self.assertEqual(self.lines(page, "figure-sizes"), [1])
        self.assertEqual(self.lines(page.replace("width=30cm", "width=30cm scale=40%"), "figure-sizes"), [])


if __name__ == "__main__":
    unittest.main()
