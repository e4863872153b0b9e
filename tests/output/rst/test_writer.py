"""A whole page as a source in reStructuredText: every node, read by another reader without a complaint."""

from __future__ import annotations

import re
from pathlib import Path

from tests.output.rst.reader import read
from tests.pages.reading import text_of_rst
from tests.support import FolderCase
from wornpage.press import press

EVERYTHING = Path(__file__).parent.parent / "everything.md"
PAGE = """
    ---
    title: Rooms
    subtitle: and halls
    authors: [{name: Imke Sandoval, affiliation: Conservation Laboratory}]
    abstract: In *short*.
    press: {rst: {contents: yes}}
    ---

    # One {#one}

    See {see two}, {see costs} and [a page](https://marlow.example/a_). A note.[^n] A line\\
    and its second.

    [^n]: With `code` and *stress*.

    ## Two {#two}

    1. first

       > quoted

    2. second
       - [x] done
       - [ ] open

    Term
    :   Meaning.

    ::: warning Mind the step

    In a box.

    :::

    ::: in html

    Not here.

    :::

    $$ a = b $$
    Label: eq

    ```python run #code pick-out=1
    print("  deep")  #~ an aside
    ```

    ```python run #costs show=output
    import pandas as pd
    frame = pd.DataFrame({("a", "x"): [1.5, 2], ("a", "y"): [3, 4], ("b", "z"): ["p|q", "*r*"]}, index=["one", "two"])
    page.table(frame, caption="Wide *heads*.", label="costs", notes=["A note below."])
    ```

    ```python run #plots show=output alt="Two lines"
    import matplotlib.pyplot as plt
    for k in (1, 2):
        plt.figure(figsize=(2, 1)); plt.plot([k, 2])
    ```
    Caption: Two of them.
    """


class Writer(FolderCase):
    def pressed(self, text: str) -> str:
        page = self.write("page.md", text)
        self.assertFalse([one for one in press(page, ["rst"]).warnings if "is HTML" not in one.what])
        return (self.folder / "page.rst").read_text(encoding="utf-8")

    def test_every_node_has_its_markup(self) -> None:
        made = self.pressed(PAGE)
        for piece in (
            "=====\nRooms\n=====\n\n*and halls*", ":Author: Imke Sandoval (Conservation Laboratory)", ".. topic:: Abstract\n\n   In *short*.", ".. contents::", ".. _one:\n\n1 One\n=====", "1.1 Two\n-------",
            "`Section\u00a01.1 <two_>`__, `Table\u00a01 <costs_>`__", "`a page <https://marlow.example/a\\_>`__", "[#worn-note-1]_", "| See ", "1. first\n\n      quoted", "   - ☑ done\n   - ☐ open", "Term\n   Meaning.",
            ".. admonition:: Mind the step\n\n   In a box.", ".. math::\n   :class: display\n\n   a = b\n   \\tag{1}", ".. code-block:: python\n   :class: source", "1. an aside", "     deep", ".. table:: **Table 1.** Wide *heads*.", "| one | 1.5 |   3 | p\\|q  |", "A note below.",
            ".. image:: page-files/plots-a.svg\n   :alt: Two lines", "**Figure 1.** Two of them.", ".. [#worn-note-1] With ``code`` and *stress*.",
        ):  # fmt: skip
            self.assertIn(piece, made)
        self.assertNotIn("Not here", made)
        self.assertEqual(read(made).wrong, [])
        self.assertEqual(
            sorted(path.name for path in (self.folder / "page-files").iterdir()), ["plots-a.svg", "plots-b.svg"]
        )

    def test_a_page_with_everything_is_read_by_another_reader(self) -> None:
        page = self.write("everything.md", EVERYTHING.read_bytes())
        press(page, ["rst", "html"])
        text = text_of_rst(page.with_suffix(".rst"))
        self.assertNotIn("a reader complains", text)
        shown = re.sub(
            r"(?s)<(style|script)\b.*?</\1>|<[^>]+>", " ", page.with_suffix(".html").read_text().partition("<main")[2]
        )
        words = set(re.findall(r"\b[a-z]{5,}\b", shown))
        missing = sorted(word for word in words if word not in text)
        self.assertLess(len(missing), len(words) * 0.03, missing)
