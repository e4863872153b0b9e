"""PDF: PDF/UA-1, the same bytes twice, everything readable."""

import re
import subprocess
import unittest
from pathlib import Path

from tests.support import FolderCase
from wornpage.output.widths import fit
from wornpage.press import press
from wornpage.tree.nodes import HeadCell, Text, TextTable
from wornpage.tree.span import Span

EVERYTHING = Path(__file__).parent / "everything.md"


def text_of(pdf: Path) -> str:
    """What a reader can copy out of a PDF."""
    return subprocess.run(["pdftotext", "-layout", pdf, "-"], capture_output=True, text=True, check=True).stdout


class Pdf(FolderCase):
    """One page with everything."""

    def test_code_and_numbers_run_from_left_to_right_among_words_that_do_not(self) -> None:
        page = self.write("p.md", "---\nlanguage: ar\n---\n\nقيمة {= -7.5} و `= one -` هنا.\n\n```python run show=source\n_ = [3]\n_ += [3]\n```\n\n|عدد|\n|---|\n|كلمة|\n")  # fmt: skip
        press(page, ["pdf", "html"])
        self.assertIn("\u200e\u22127.5", (self.folder / "p.html").read_text(encoding="utf-8"))
        boxes = subprocess.run(["pdftotext", "-bbox", self.folder / "p.pdf", "-"], capture_output=True, text=True, check=True).stdout  # fmt: skip
        left = {
            found[1].strip("\u200e\u202c"): float(found[0])
            for found in re.findall(r'xMin="([\d.]+)"[^>]*>([^<]+)<', boxes)
        }
        self.assertLess(left["_"], left["+="])
        self.assertLess(left["one"], left["-"])
        self.assertLess(left["one"], left["\u22127.5"])

    def test_an_estimate_and_its_error_stand_on_one_sheet_and_all_stars_have_room(self) -> None:
        fits = "x = rng.normal(size=(400, 45))\nfits = [sm.OLS(x.sum(axis=1) + k * rng.normal(size=400), x).fit() for k in (1, 2)]"
        page = self.write("p.md", f"```python run show=output\nimport statsmodels.api as sm, numpy as np\nrng = np.random.default_rng(1)\n{fits}\npage.model(*fits, stars=True)\n```\n")  # fmt: skip
        press(page, ["html", "pdf"])
        self.assertIn('<table style="--marks: 3">', (self.folder / "p.html").read_text(encoding="utf-8"))
        sheets = [
            re.findall(r"^ *(x\d+|\()", sheet, re.MULTILINE) for sheet in text_of(self.folder / "p.pdf").split("\f")
        ]
        self.assertGreater(len([sheet for sheet in sheets if sheet]), 1)
        for sheet in filter(None, sheets):
            rows = sheet[1:]  # behind the heads, (1) and (2)
            self.assertEqual([one == "(" for one in rows], [bool(at % 2) for at in range(len(rows))])

    def test_everything_is_typeset_tagged_and_the_same_twice(self) -> None:
        page = self.write("everything.md", EVERYTHING.read_bytes())
        pressing = press(page, ["pdf"])
        pdf = page.with_suffix(".pdf")
        first = pdf.read_bytes()
        pdf.unlink()
        press(page, ["pdf"])
        self.assertEqual(pdf.read_bytes(), first)
        info = subprocess.run(["pdfinfo", pdf], capture_output=True, text=True, check=True).stdout
        self.assertRegex(info, r"Tagged:\s+yes")
        self.assertRegex(info, r"612 x 792")
        self.assertIn(b"<pdfuaid:part>1</pdfuaid:part>", first)
        text = text_of(pdf)
        for words in (
            'Tëst <b> & "quotes" # $ \\ @ _',
            "UserWarning: watch out <b>",
            "Three parts of one figure",
            "column_39",
            "99,995 more lines",
        ):
            self.assertIn(words, text)
        self.assertGreater(
            len(re.findall(r"^\s*n\s+text\s+x\s+d\s+b\s+miss", text, re.MULTILINE)), 2, "the head is repeated"
        )
        letters = [w.what for w in pressing.warnings if "no font" in w.what]
        self.assertEqual([letter in " ".join(letters) for letter in "漢字"], [True, True])

    def test_what_it_cannot_show_is_a_warning_with_its_place(self) -> None:
        pressing = press(
            self.write("p.md", "# T\n\nA <u>b</u>.\n\n<div>x</div>\n\n::: in html\n<div>y</div>\n:::\n"), ["pdf"]
        )
        self.assertEqual([w.span.line for w in pressing.warnings], [3, 5])

    def test_a_page_without_title_or_with_odd_headings_is_still_typeset(self) -> None:
        for text in (
            "",
            "Only words.",
            "### Deep first\n\n# Then high\n\n#### Deep",
            "![](data:image/svg+xml,%3Csvg%20xmlns='http://www.w3.org/2000/svg'%20viewBox='0%200%201%201'/%3E)",
        ):
            with self.subTest(text):
                press(self.write("p.md", text), ["pdf"])


class Widths(unittest.TestCase):
    """Wide tables get smaller, then come in parts."""

    def table(self, columns: int, letters: int = 8) -> TextTable:
        span = Span("p", 1)
        head = tuple(HeadCell((Text(span, "h"),)) for _ in range(columns))
        return TextTable((head,), ("right",) * columns, (((Text(span, "1" * letters),),) * columns,), 1)

    def test_size_and_parts(self) -> None:
        self.assertEqual((fit(self.table(4), 16).size, len(fit(self.table(4), 16).groups)), (9.0, 1))
        self.assertLess(fit(self.table(12), 16).size, 9.0)
        groups = fit(self.table(60), 16).groups
        self.assertTrue(all(group[0] == 0 for group in groups))
        self.assertEqual([place for group in groups for place in group[1:]], list(range(1, 60)))
