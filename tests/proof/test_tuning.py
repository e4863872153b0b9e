"""Figures set in a proof: lines of code at the end of their chunk, and nothing else."""

from __future__ import annotations

from pathlib import Path

from tests.support import FolderCase
from wornpage.press import press
from wornpage.proof.tuning import chunk_at, lines_for, tuned
from wornpage.source import Page
from wornpage.source.reader import parse_page
from wornpage.tree.problem import UsageError

TEXT = """\
Words.

```python run #plain width=10cm
import matplotlib.pyplot as plt
fig, ax = plt.subplots()
ax.plot([1, 2], [1, 10])

```

Caption: It.

- item

  ```python run #shown
  plt.plot([1, 2])
  plt.show()
  ```

```r run #other
plot(1)
```
"""


def page(text: str = TEXT) -> Page:
    """A page of this text."""
    return parse_page(text, Path("page.md"), "page.md")


class Tuning(FolderCase):
    def tuned(self, line: int, **picked: str) -> str:
        """The page with what was picked for the figure of a chunk."""
        source = page()
        return tuned(source, chunk_at(source, line), {name.replace("_", "-"): value for name, value in picked.items()})

    def test_what_is_picked_is_code_at_the_end_of_the_chunk(self) -> None:
        made = self.tuned(
            3,
            title='A "title"',
            x_from="0",
            x_to="3e1",
            y_scale="log",
            grid="y",
            legend="upper left",
            width="12 cm",
            height="6cm",
        )
        wanted = 'ax.set_title("A \\"title\\"")\nax.set_xlim(left=0, right=3e1)\nax.set_yscale("log")\nax.grid(True, axis="y")\nax.legend(loc="upper left")\n'
        self.assertEqual(
            made, TEXT.replace("[1, 10])\n", "[1, 10])\n" + wanted).replace("width=10cm", "width=12cm height=6cm")
        )
        self.assertEqual(
            self.tuned(14, x_label="x"), TEXT.replace("  plt.show()", '  plt.gca().set_xlabel("x")\n  plt.show()')
        )

    def test_what_was_picked_draws(self) -> None:
        path = self.write(
            "page.md",
            self.tuned(
                3,
                title="T",
                x_label="a",
                y_label="b",
                x_from="0",
                y_to="20",
                y_scale="symlog",
                grid="both",
                width="9cm",
            ).partition("```r")[0],
        )
        self.assertEqual([str(one) for one in press(path, ["html"]).warnings if "ended" in str(one)], [])
        self.assertIn("width:9cm", (self.folder / "page.html").read_text())

    def test_nothing_but_what_is_offered_becomes_code(self) -> None:
        for picked in (
            {"x_from": "__import__('os')"},
            {"grid": "both); evil("},
            {"legend": "x"},
            {"x_scale": "log')"},
            {"width": "1cm show=all"},
        ):
            with self.subTest(picked), self.assertRaises(UsageError):
                self.tuned(3, **picked)
        source = page()
        self.assertEqual(
            lines_for(source, chunk_at(source, 3), {"title": 'x")\nevil("', "unknown": "y"}),
            ['ax.set_title("x\\") evil(\\"")'],
        )
        for line in (1, 19):
            with self.assertRaises(UsageError):
                chunk_at(source, line)
