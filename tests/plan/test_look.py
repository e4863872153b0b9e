"""Figures in the page's look: its colours in HTML, and the same whether a chunk runs alone or with all others."""

from __future__ import annotations

import shutil
from unittest import skipUnless

from tests.support import FolderCase
from wornpage.press import press

PYTHON = """
---
figures: {look: LOOK}
---

```python run #first
import matplotlib.pyplot as plt
plt.rcParams["lines.linewidth"] = 3
```

```python run #second
fig, ax = plt.subplots(figsize=(3, 2))
ax.plot([1, 2], [1, 3])
ax.grid()
```

```python run #third
plt.rcParams.update({"lines.linewidth": 1.0, "axes.edgecolor": "red"})
```

```python run #fourth
fig, ax = plt.subplots(figsize=(3, 2))
ax.plot([1, 2], [2, 3])
```
"""
R = """
---
figures: {look: LOOK}
---

```r run #first
x <- 1:3
```

```r run #second
plot(x, col = 2)
```

```r run #third
palette("R3")
```

```r run #fourth
plot(x, col = 2)
```
"""


class Look(FolderCase):
    def partly_and_whole(self, text: str, old: str, new: str) -> str:
        """The page with one change, pressed after it was pressed without; and that it is as pressed from nothing."""
        page = self.write("page.md", text)
        press(page, ["html"])
        self.write("page.md", text.replace(old, new))
        ran = press(page, ["html"])
        self.assertLess(sum(chunk.outcome == "ran" for chunk in ran.chunks), 4)
        partly = (self.folder / "page.html").read_text()
        press(page, ["html"], afresh=True)
        self.assertEqual((self.folder / "page.html").read_text(), partly)
        return partly.partition("<main")[2]

    def test_python_draws_in_the_page_s_colours_alone_and_with_all(self) -> None:
        made = self.partly_and_whole(PYTHON.replace("LOOK", "page"), "[2, 3]", "[3, 2]")
        self.assertIn('class="page-look"', made)
        self.assertIn("var(--ink,#23262b)", made)
        self.assertIn("var(--hair,#d8d4ca)", made)
        self.assertIn("#2f7f86", made)
        self.partly_and_whole(PYTHON.replace("LOOK", "page"), "[1, 3]", "[3, 1]")

    def test_the_library_s_own_look_stays_its_own(self) -> None:
        made = self.partly_and_whole(PYTHON.replace("LOOK", "library"), "[2, 3]", "[3, 2]")
        self.assertIn("#1f77b4", made)
        self.assertNotIn("var(--ink", made)

    def test_another_look_runs_what_it_may_change(self) -> None:
        page = self.write("page.md", PYTHON.replace("LOOK", "library"))
        press(page, ["html"])
        self.write("page.md", PYTHON.replace("LOOK", "page"))
        self.assertEqual({chunk.outcome for chunk in press(page, ["html"]).chunks}, {"ran"})

    @skipUnless(shutil.which("Rscript"), "there is no R here")
    def test_r_draws_in_the_page_s_colours_alone_and_with_all(self) -> None:
        made = self.partly_and_whole(
            R.replace("LOOK", "page"),
            "plot(x, col = 2)\n```\n\n```r run #third",
            "plot(x, col = 3)\n```\n\n```r run #third",
        )
        self.assertIn("var(--ink,#23262b)", made)
        self.assertIn("#b5533c", made)
        self.partly_and_whole(R.replace("LOOK", "page"), 'palette("R3")', 'palette("R4")')
