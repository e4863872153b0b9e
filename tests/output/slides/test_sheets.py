"""Slides on sheets: one each, one a step, three with lines; what was drawn, the same bytes, links that lead somewhere."""

import re
import subprocess
from pathlib import Path

from tests.support import FolderCase
from wornpage.press import press

PAGE = """
    ---
    title: A talk
    authors: [Ada Lund]
    press: {slides: {chunks: {show: all}}, slides-pdf: {sheets: slides}}
    ---

    # Part

    ## Steps

    - one
    - two

    {steps=yes}

    ::: speaker
    Never shown.
    :::

    ## Code

    ```python run #a pick-out="1 then 2" output-goes=next-step
    x = 1
    print(x)
    ```

    ## Figure {background="#1c5a63"}

    ```python run #plot show=output
    import matplotlib.pyplot as plt
    plt.plot([1, 2])
    ```
    Caption: A line.

    ### Below

    See {see plot}.[^n] Again.[^n]

    [^n]: A note about $x^2$.

    {new slide}

    | a | b |
    |---|--:|
    | x | 1.5 |
    """


class Sheets(FolderCase):
    def sheets(self, kind: str, page: str = PAGE) -> list[str]:
        """The words of each sheet."""
        press(self.write("talk.md", page.replace("sheets: slides", f"sheets: {kind}")), ["slides-pdf"])
        made = subprocess.run(["pdftotext", self.file, "-"], capture_output=True, text=True, check=True)
        return [re.sub(r"\s+", " ", sheet).strip() for sheet in made.stdout.split("\f")[:-1]]

    @property
    def file(self) -> Path:
        return self.folder / "talk.slides.pdf"

    def test_one_slide_a_sheet(self) -> None:
        sheets = self.sheets("slides")
        self.assertEqual(len(sheets), 6)
        self.assertTrue(sheets[0].startswith("A talk Ada Lund"))
        self.assertIn("one", sheets[2])
        self.assertRegex(sheets[4], r"Below.*A line\. See Figure 1\.1 Again\.1 1\. A note about")
        self.assertNotIn("Never shown", " ".join(sheets))
        told = subprocess.run(["pdfinfo", self.file], capture_output=True, text=True, check=True).stdout
        self.assertRegex(told, r"Tagged:\s+yes")
        self.assertRegex(told, r"Page size:\s+960 x 540 pts")
        before = self.file.read_bytes()
        self.sheets("slides", PAGE.replace("A talk", "Another"))
        self.sheets("slides")
        self.assertEqual(self.file.read_bytes(), before)

    def test_each_step_a_sheet(self) -> None:
        sheets = self.sheets("steps")
        self.assertEqual(len(sheets), 10)
        self.assertEqual(
            [("one" in one, "two" in one) for one in sheets[2:5]], [(False, False), (True, False), (True, True)]
        )
        self.assertEqual([bool(re.search(r"print\(x\).* 1\b", one)) for one in sheets[5:8]], [False, False, True])

    def test_three_on_a_sheet(self) -> None:
        sheets = self.sheets("handout")
        self.assertEqual(len(sheets), 2)
        self.assertIn("two", sheets[0])

    def test_other_scripts_and_shapes(self) -> None:
        page = (
            "---\ntitle: عنوان\nlanguage: ar\npress: {slides: {shape: '4:3'}}\n---\n\n# قسم\n\nكلمات `x = -1`.\n\n- أ\n"
        )
        press(self.write("talk.md", page), ["slides-pdf", "slides", "pptx"])
        self.assertIn('dir="rtl"', (self.folder / "talk.slides.html").read_text(encoding="utf-8"))
        told = subprocess.run(["pdfinfo", self.file], capture_output=True, text=True, check=True).stdout
        self.assertRegex(told, r"Page size:\s+720 x 540 pts")
