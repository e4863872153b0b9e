"""Stationeries: built in, copied and changed, and at fault."""

import re
import subprocess

from tests.output.test_pdf import text_of
from tests.support import FolderCase, worn
from wornpage.output.stationery import StationeryFault, find_stationery, names
from wornpage.press import press

PAGE = """---
title: Of paper
running-title: Paper
authors:
  - {name: Ann Quill, affiliation: [Lab, Branch], email: ann@marlow.example, corresponding: yes}
  - {name: Bo Reed, affiliation: Lab}
abstract: Short.
keywords: [a, b]
STATIONERY
---

# One

Text of seven words with {see t}, {see f}.

| a | b |
|---|---|
| 1 | 2 |
Caption: A table.
Label: t

![A dot](dot.svg){width=WIDTH #f}
Caption: A figure.

# Two

More text.
"""
SQUARE = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 10 10" width="10" height="10"><rect width="10" height="10" fill="#ff0000"/></svg>'


class Stationeries(FolderCase):
    """Every stationery in both outputs."""

    def setUp(self) -> None:
        super().setUp()
        self.write("dot.svg", SQUARE)

    def pressed(self, stationery: str, more: str = "", width: str = "5cm") -> tuple[str, str, int]:
        """The HTML, the words of the PDF, and how many sheets it has."""
        text = PAGE.replace("STATIONERY", f"stationery: {stationery}\n{more}").replace("WIDTH", width)
        path = self.write("page.md", text)
        press(path, ["html", "pdf"])
        info = subprocess.run(["pdfinfo", path.with_suffix(".pdf")], capture_output=True, text=True, check=True).stdout
        sheets = re.search(r"Pages:\s+(\d+)", info)
        assert sheets is not None
        self.assertIn("Tagged:          yes", info)
        return path.with_suffix(".html").read_text(encoding="utf-8"), text_of(path.with_suffix(".pdf")), int(sheets[1])

    def test_each_one_sets_the_whole_page(self) -> None:
        for name in names():
            with self.subTest(name):
                html, text, _ = self.pressed(name)
                for words in ("Of paper", "Ann Quill", "Lab", "Short.", "One", "Table 1", "A figure.", "More text."):
                    self.assertIn(words, html.replace("\u00a0", " "))
                    self.assertIn(words, re.sub(r"\s+", " ", text))

    def test_a_manuscript_has_a_title_sheet_and_figures_at_the_end_if_wanted(self) -> None:
        _, text, sheets = self.pressed("manuscript", "press: {pdf: {figures: at-end}}")
        first, *_ = text.split("\f")
        for words in ("Correspondence: Ann Quill", "Running title", "Paper", "17 words"):
            self.assertIn(words, first)
        self.assertNotIn("Abstract", first)
        self.assertIn("[Figure 1 about here]", text)
        self.assertGreater(text.index("A figure."), text.index("More text."))
        self.assertGreaterEqual(sheets, 5)

    def test_a_journal_lets_wide_figures_span_both_columns(self) -> None:
        self.pressed("journal", width="5cm")
        narrow = self.picture_width()
        self.pressed("journal", width="15cm")
        self.assertAlmostEqual(self.picture_width() / narrow, 3, delta=0.1)

    def test_a_long_table_breaks_over_columns_and_sheets_in_every_stationery(self) -> None:
        rows = "".join(f"| row {number} | {number * number} |\n" for number in range(150))
        for name in names():
            path = self.write(
                "long.md", f"---\nstationery: {name}\n---\n\nText.\n\n| a | b |\n|---|---:|\n{rows}Caption: Long.\n"
            )
            press(path, ["pdf"])
            text = text_of(path.with_suffix(".pdf"))
            with self.subTest(name):
                self.assertEqual(sorted(int(n) for n in re.findall(r"row (\d+)", text)), list(range(150)))

    def picture_width(self) -> int:
        """How wide the red square is drawn, in points."""
        made = subprocess.run(
            ["pdftoppm", "-r", "72", self.folder / "page.pdf"], capture_output=True, check=True
        ).stdout
        return max(len(run) // 3 for run in re.findall(rb"(?:\xff\x00\x00)+", made))

    def test_a_copy_can_be_changed_and_rests_on_its_base(self) -> None:
        self.assertEqual(worn("stationery", "copy", "journal", "looks", folder=self.folder).returncode, 0)
        css = self.folder / "looks/page.css"
        css.write_text(css.read_text() + "\n.mine { color: teal }\n")
        html, _, _ = self.pressed("looks")
        self.assertIn(".mine { color: teal }", html)
        self.assertIn("--measure: 42rem", html)
        worn("press", "page.md", "--as", "html", folder=self.folder)
        again = worn("press", "page.md", "--as", "html", folder=self.folder)
        self.assertIn("nothing to do", again.stderr)
        css.write_text(css.read_text().replace("teal", "navy"))
        worn("press", "page.md", folder=self.folder)
        self.assertIn("navy", (self.folder / "page.html").read_text())
        self.assertEqual(worn("stationery", "copy", "report", "looks", folder=self.folder).returncode, 2)
        self.assertIn("manuscript", worn("stationery", "list", folder=self.folder).stdout)

    def test_faults_say_what_there_is(self) -> None:
        (problem,) = self.faults("---\nstationery: reprot\n---\n\nText.\n")
        self.assertEqual((problem.span.line, problem.span.column), (2, 13))
        self.assertIn("'report'", problem.hint)
        self.write("bad/stationery.toml", 'name = "bad"\nbasis = "report"\n')
        self.write("broken/stationery.toml", "name bad\n")
        self.write("size/stationery.toml", 'base = "report"\nxlsx-size = "large"\n')
        self.write("cites/stationery.toml", 'base = "report"\ntex-cites = "bibtex"\n')
        self.write("bare/stationery.toml", 'name = "bare"\n')
        self.write("empty/page.css", "")
        for name, what in (
            ("bad", "bad/stationery.toml:2:1"),
            ("size", "size/stationery.toml:2:1: xlsx-size is points"),
            ("cites", "cites/stationery.toml:2:1: tex-cites is `text`, `biblatex` or `natbib`"),
            ("empty", "has no stationery.toml"),
            ("broken", "no TOML"),
            ("bare", "page.css"),
        ):
            with self.subTest(name), self.assertRaises(StationeryFault) as caught:
                find_stationery(name, self.folder / "page.md")
            self.assertIn(what, caught.exception.what)


class House(FolderCase):
    """A stationery with a logo and faults of its own."""

    SHEET = '#import "base.typ": *\n#import "base.typ" as base\n#let sheets(..told, body) = {\n  show: base.sheets.with(..told)\n  MORE\n  body\n}\n'

    def house(self, more: str = "", css: str = "", **files: str) -> None:
        self.write("house/stationery.toml", 'name = "house"\nabout = "ours"\nbase = "report"\n')
        self.write("house/sheet.typ", self.SHEET.replace("MORE", more))
        self.write("house/page.css", css)
        self.write("house/logo.svg", SQUARE)
        self.page = self.write("page.md", "---\ntitle: T\nstationery: house\n---\n\nWords.\n")

    def test_its_pictures_are_found_in_both_outputs(self) -> None:
        self.house(
            'set page(header: [#image("logo.svg", height: 5mm, alt: "Logo") The House])',
            ".head { background: url(logo.svg); }",
        )
        self.assertEqual(press(self.page, ["html", "pdf"]).warnings, ())
        self.assertIn("The House", text_of(self.page.with_suffix(".pdf")))
        self.assertIn('url("data:image/svg+xml;base64,', self.page.with_suffix(".html").read_text())

    def test_its_faults_have_places(self) -> None:
        self.house(
            "set text(fnt: 1)",
            "a {}\n.b { background: url(lgo.svg) }\n.c { background: url(https://example.org/x.png) }",
        )
        done = worn("press", "page.md", "--as", "pdf", folder=self.folder)
        self.assertIn("house/sheet.typ:5:", done.stderr)
        told = [str(one) for one in press(self.page, ["html"]).warnings]
        self.assertIn("house/page.css:2:18: warning: 'lgo.svg' cannot be read", told[0])
        self.assertIn("house/page.css:3:18: warning: 'https://example.org/x.png' lies elsewhere", told[1])
        self.write("house/page.html.j2", "<!DOCTYPE html>\n<html><body>\n{{ titel }}\n{{ body }}</body></html>\n")
        done = worn("press", "page.md", folder=self.folder)
        self.assertIn("house/page.html.j2:3:1:", done.stderr)
        self.assertIn("Did you mean 'title'", done.stderr)

    def test_sheets_have_many_sizes(self) -> None:
        for paper, size in (("a5", "419.5"), ("a4 landscape", "841.9"), ("17cm x 24cm", "481.9")):
            page = self.write("page.md", f"---\npress: {{pdf: {{paper: {paper}}}}}\n---\n\nWords.\n")
            press(page, ["pdf"])
            told = subprocess.run(
                ["pdfinfo", page.with_suffix(".pdf")], capture_output=True, text=True, check=False
            ).stdout
            self.assertIn(
                f"Page size:       {size}",
                told.replace("419.528", "419.5").replace("841.89 ", "841.9 ").replace("481.89 ", "481.9 "),
            )
