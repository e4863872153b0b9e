"""What one output leaves out, and what must not lead there."""

from __future__ import annotations

import re

from tests.support import FolderCase
from wornpage.press import press

PAGE = """---
title: Two outputs
bibliography: few.bib
---

# First {#one}

::: in html
## Web only {#web}

See {cite ng2019} and ![dot](dot.svg).

::: side-by-side
{contents}
:::
:::

### Deep {cite ng2019}

Back to {see web}, [there](#web), {see deep-table}.

> {new sheet}
>
> - quoted
>
>   ::: in pdf
>   ## Paper only {#paper}
>   :::

::: in pdf
See {see paper} and {see deep-table}.
:::

{contents}

| a |
|---|
| {cite ng2019 p. 4} |
Label: deep-table
"""


class Audience(FolderCase):
    """Pages with parts for one output."""

    def test_both_outputs_hold_together(self) -> None:
        """Every link of each output leads somewhere; the typesetter takes what is left."""
        self.write("few.bib", "@book{ng2019, author = {Ng, Ada}, title = {Damp}, year = 2019, publisher = {Press}}\n")
        self.write("dot.svg", '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"/>')
        press(self.write("page.md", PAGE), ["html", "pdf"])
        html = (self.folder / "page.html").read_text("utf-8")
        self.assertNotIn("Paper only", html)
        self.assertIn("Web only", html)
        targets = re.findall(r'href="#([^"]+)"', html)
        identities = re.findall(r'\bid="([^"]+)"', html)
        self.assertLessEqual(set(targets), set(identities))
        self.assertEqual(len(identities), len(set(identities)))

    def test_references_stand_once(self) -> None:
        """A second list of one page is told, with its line."""
        self.assertEqual(self.fault_places("# T\n\n{references}\n\n{references}\n"), [(5, 1)])
