"""LaTeX sources: what a page says, in LaTeX's own ways, with LaTeX's own numbers being the page's."""

from __future__ import annotations

import re
import shutil
from pathlib import Path
from unittest import mock

from tests.output.tex.compiled import sheets_of
from tests.support import FolderCase
from wornpage.press import press
from wornpage.tree.problem import PageError

DOT = '<svg xmlns="http://www.w3.org/2000/svg" width="90" height="60"><rect width="90" height="60" fill="teal"/></svg>'
PAGE = r"""
---
title: Costs & 100 % of "damp"
subtitle: "A_b #1"
authors:
  - {name: Ada Lund, affiliation: [Lab, Bindery], email: ada@x.example, corresponding: yes}
  - {name: Bo Ek, affiliation: Bindery}
abstract: We *measured* {= n} volumes.
keywords: [paper, acid]
date: 2026-03-02
numbering: {headings: yes}
macros: {\mean: "\\bar{#1}"}
---

```python run #top show=nothing
n = 3
```

# First things {#first}

Of {= n} volumes[^a], see {see dot}, {see costs, more}, {see eq}, {see first}, {see first as title} and [the list](#code).
A path `C:\new_dir/a--b`, ~~gone now~~, [a link](https://x.example/a_b?c=1&d=%20#e).

[^a]: A note with `code_x` & a list:

    - one

```python run #costs show=all
import pandas as pd
page.table({"kind & sort": ["a_b", "c%"], "n": [1, 22]}, notes={"n": "50 % of it"})
```
Caption: What it costs, in €.

![A dot_1](dot.svg){#dot width=3cm}

Caption: A dot[^a] with $x_1$.

$$ \mean{x} = \frac{1}{n} \sum x_i $$
Label: eq

## Deep {#deep}

- a
    - b
        - c
            - d
                - e
                    1. f

3. third
4. fourth

- [x] done
- [ ] open

::: side-by-side

![left](dot.svg)

Caption: On the left.

***

| k | v |
|---|---|
| x | 1[^t] |
Caption: On the right.
Label: more

:::

[^t]: Told below.

::: note
In a box: **bold**.
:::

> Quoted.

Term
:   Meaning.

```python #code
def f(x):
    return {"a": x}  # a comment
```
Caption: A listing.

```python run #two show=output
import matplotlib.pyplot as plt
for k in (1, 2):
    plt.figure(figsize=(2, 1))
    plt.plot([k])
```

```python run #pair show=output
for k in (1, 2):
    plt.figure(figsize=(2, 1))
    plt.plot([k])
```
Caption: A pair.

{appendix}

# Tables {#tables}

See {see tables}.

```python run #long show=output
page.table({"row": list(range(80)), "said": ["words " * 12] * 80})
```
Caption: Long.
"""


class Source(FolderCase):
    def pressed(self, text: str = PAGE, outputs: tuple[str, ...] = ("tex",), head: str = "") -> Path:
        self.write("dot.svg", DOT)
        page = self.write("page.md", text.replace("numbering: {headings: yes}\n", head))
        self.result = press(page, outputs)
        return page.with_suffix(".tex")

    def test_it_says_all_of_the_page_with_its_numbers(self) -> None:
        source = self.pressed()
        text = sheets_of(source)
        for words in (
            'Costs & 100 % of "damp"', "A_b #1", "Ada Lund", "We measured 3 volumes", "Of 3 volumes", "see Figure 1, Tables 1 and 2, Equation 1, Section 1, First things and the list",
            "C:\\new_dir/a--b", "gone now", "a link", "50 % of it", "kind & sort", "a_b 1", "c% 22", "A dot", "On the left", "On the right", "Told below", "In a box: bold",
            "return {\"a\": x} # a comment", "Listing 1", "A pair.", "A Tables", "See Appendix A", "3. third", "Table 3",
        ):  # fmt: skip
            self.assertIn(words, text)
        self.assertGreaterEqual(text.count("row said"), 2, "heads again on the next sheet")

    def test_it_is_clean(self) -> None:
        source = self.pressed()
        text = source.read_text(encoding="utf-8")
        for piece in (
            r"\section{First things}\label{first}", r"Figure~\ref{dot}", r"\caption{What it costs, in \texteuro{}.}\label{costs}", r"\begin{longtable}", r"\appendix", r"\toprule",
            r"\includegraphics[width=3cm, alt={A dot\_1}]{page-files/dot.pdf}", r"\href{https://x.example/a_b?c=1\&d=\%20\#e}{a link}", r"\begin{equation}\label{eq}", r"\mean{x} = \frac{1}{n} \sum x_i",
        ):  # fmt: skip
            self.assertIn(piece, text)
        self.assertNotRegex(text, r"worn-place|\n\n\n(?!\n)\\begin{table}|[\x00-\x08]")
        self.assertIn("of {= n}".replace("{= n}", "3"), text.lower())
        self.assertTrue((self.folder / "page-files" / "dot.pdf").read_bytes().startswith(b"%PDF"))
        before = {path.name: path.read_bytes() for path in (self.folder / "page-files").iterdir()}
        self.pressed()
        self.assertEqual(text, source.read_text(encoding="utf-8"))
        self.assertEqual(before, {path.name: path.read_bytes() for path in (self.folder / "page-files").iterdir()})

    def test_journals_find_their_pieces(self) -> None:
        for name in ("manuscript", "journal", "book"):
            with self.subTest(name):
                text = sheets_of(self.pressed(head=f"stationery: {name}\npress: {{tex: {{figures: at-end}}}}\n"))
                for words in ("damp", "Ada Lund", "We measured 3 volumes", "Figure 1 about here", "A dot"):
                    self.assertIn(words, text)

    def test_a_journal_of_ones_own_takes_a_dozen_lines_and_is_told_of_what_it_gets_wrong(self) -> None:
        self.write("own/stationery.toml", 'name = "own"\nbase = "report"\n')
        own = "\\documentclass{{article}}\n<< preamble >>\n\\begin{{document}}\n<% for one in authors %>\n\\textbf{{<< one.name >>}} [<< one.marks >>]\n<% endfor %>\n{}\n\\end{{document}}\n"
        self.write("own/sheet.tex.j2", own.format("<< body >>"))
        text = sheets_of(self.pressed(head="stationery: own\n"))
        self.assertRegex(text, r"Ada Lund ?\[1,2\] Bo Ek ?\[2\]")
        for wrong, words in (
            ("<< bodi >>", r"own/sheet.tex.j2:7:1: .*'bodi' is undefined.*Did you mean 'body'"),
            ("<% if %>", "own/sheet.tex.j2:7"),
        ):
            self.write("own/sheet.tex.j2", own.format(wrong))
            with self.assertRaisesRegex(PageError, words):
                self.pressed(head="stationery: own\n")

    def test_works_are_cited_by_a_package(self) -> None:
        self.write(
            "works.bib",
            "@book{lund2020, author = {Lund, Ada and others}, title = {On Paper}, year = 2020, publisher = {M}}\n@misc{anon, title = {Nobody's}, year = 2019}\n",
        )
        text = 'A {cite lund2020 p. 4-5}, {cite "see" lund2020; anon} and {cite lund2020 as sentence}.\n'
        head = "---\ntitle: T\nbibliography: works.bib\npress: {tex: {cites: natbib}}\n---\n\n"
        source = self.pressed(head + text)
        made = source.read_text(encoding="utf-8")
        self.assertIn(r"\citep[pp.~4–5]{lund2020}".replace("–", "--"), made)
        self.assertIn(r"(see \citealp{lund2020}; \citealp{anon})", made)
        self.assertIn(r"\citet{lund2020}", made)
        self.assertIn("author = {Lund, Ada and others}", (self.folder / "page-files" / "references.bib").read_text())
        words = self.pressed(head.replace("natbib", "text") + text).read_text(encoding="utf-8")
        self.assertIn("On Paper", words)
        self.assertNotIn(r"\cite", words)


class Compiled(FolderCase):
    def test_the_same_sheets_again_and_faults_in_lines_of_the_page(self) -> None:
        page = self.write(
            "page.md",
            "# One {#one}\n\n- ## Two\n\n> ### Three\n\nSee {see one}.\n\n" + "X" * 39 + " " + "`" + "y" * 300 + "`\n",
        )
        press(page, ["tex-pdf"])
        first = (self.folder / "page.tex.pdf").read_bytes()
        self.assertTrue(first.startswith(b"%PDF"))
        moved = self.folder / "elsewhere"
        moved.mkdir()
        shutil.copy(page, moved)
        press(moved / "page.md", ["tex-pdf"])
        self.assertEqual(first, (moved / "page.tex.pdf").read_bytes())
        bad = self.write("bad.md", "---\nmacros: {'\\bad': '\\nosuch'}\n---\n\nFirst.\n\nOne $x$.\n")
        with (
            mock.patch("wornpage.output.tex.formulas._sound", return_value=r"\nosuch"),
            self.assertRaises(PageError) as caught,
        ):
            press(bad, ["tex-pdf"], afresh=True)
        self.assertRegex(
            str(caught.exception),
            r"bad\.md:7:1: LaTeX: Undefined control sequence\. It stopped behind `One \\\(\\nosuch`",
        )

    def test_without_a_tex_it_says_so(self) -> None:
        with (
            mock.patch("wornpage.output.tex_pdf.compiling.shutil.which", return_value=None),
            self.assertRaises(PageError) as caught,
        ):
            press(self.write("page.md", "Words.\n"), ["tex-pdf"])
        self.assertIn("page.md:1:1: there is no lualatex, xelatex or pdflatex", str(caught.exception))

    def test_nothing_of_the_page_calls_a_program(self) -> None:
        page = self.write("page.md", "Words \\immediate\\write18{touch ran} and `\\input{/etc/passwd}`.\n")
        press(page, ["tex-pdf"])
        self.assertFalse(re.search("ran$", "\n".join(map(str, self.folder.rglob("*"))), re.MULTILINE))
