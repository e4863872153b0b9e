"""Every letter that goes into a source comes out of it on the sheet."""

from __future__ import annotations

import re
import string
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from tests.output.tex.compiled import sheets_of
from tests.support import FolderCase
from wornpage.output.tex import letters
from wornpage.output.tex.formulas import display
from wornpage.tree import nodes as n
from wornpage.tree.formula import Row
from wornpage.tree.span import Span

PREAMBLE = Path(letters.__file__ or "").with_name("preamble.tex")
FORMULAS = Path(__file__).parents[2] / "compose" / "formulas.txt"
NASTY = [
    "a--b",
    "<<x>>",
    ",,y''",
    "?`!`",
    "100 % & more",
    r"C:\new {x}",
    "a_b^c~d#e$f",
    "\"q\" 'r'",
    "x | y < z > w",
    "[0]",
    "*",
]
COMMAND = re.compile(r"\\(?:[A-Za-z]+(?:\{\})?|.)")


class Letters(FolderCase):
    @given(st.text(max_size=60))
    def test_nothing_is_left_that_latex_would_take_for_its_own(self, words: str) -> None:
        for made in (letters.text(words), letters.text(words, is_literal=True)):
            bare = COMMAND.sub("", made)
            self.assertEqual(bare.count("{"), bare.count("}"))
            self.assertNotRegex(bare.replace("{}", ""), r"[#$%&_^]|--.-|\x01|\x00")
        self.assertNotRegex(letters.address(words), r"[{}\\](?![%#&])|(?<!\\)[#%&]")
        self.assertNotRegex(letters.label(words), r"[\\{}#%~^&$,\s]")

    def test_they_are_the_same_on_the_sheet(self) -> None:
        latin = (
            "ÀÁÂÃÄÅÆÇÈÉÊËÌÍÎÏÐÑÒÓÔÕÖØÙÚÛÜÝÞßàáâãäåæçèéêëìíîïðñòóôõöøùúûüýþÿĂăĄąĆćČčĎĘęĚěĞğŁłŃńŇňŐőŒœŘřŚśŞşŠšŮůŰűŸŹźŻżŽž"
        )
        lines = [*NASTY, string.punctuation, "αβγδ ΓΘ ≤ → ∞ ± × °", *re.findall(".{1,30}", latin)]
        body = [letters.text(line) for line in lines]
        body += [rf"\texttt{{{letters.text(line, is_literal=True)}}}" for line in NASTY]
        body += ["\\begin{worncode}", *map(letters.verbatim, [*NASTY, string.punctuation]), "\\end{worncode}"]
        text = self.sheet("\n\n".join(body[: -len(NASTY) - 3]) + "\n\n" + "\n".join(body[-len(NASTY) - 3 :]))
        for line in [*NASTY, string.punctuation]:
            plain = line.replace("'", "’")
            for wanted in (plain, line):
                self.assertIn(wanted.replace(" ", ""), text)
        for line in lines[len(NASTY) + 1 :]:
            self.assertIn(line.replace(" ", ""), text)

    def sheet(self, body: str) -> str:
        """What stands on a sheet, without spaces."""
        preamble = PREAMBLE.read_text(encoding="utf-8")
        source = self.write("sheet.tex", f"\\documentclass{{article}}\n{preamble}\n\\begin{{document}}\n{body}\n\\end{{document}}\n")  # fmt: skip
        return sheets_of(source, runs=1).replace(" ", "")

    def test_every_formula_that_pages_can_have_is_one_that_latex_sets(self) -> None:
        lines = FORMULAS.read_text(encoding="utf-8").splitlines()
        found = [line.split("\t")[0].strip() for line in lines if line and not line.startswith("#")]
        self.assertGreater(len(found), 400)
        found += [
            r"\text{a & b, $x_1$ & c}",
            "x\n\n= y",
            r"\begin{aligned} a &= b \tag{A} \\ c &= d \tag{B} \end{aligned}",
        ]
        made = [display(n.MathBlock(Span("page.md", 1), Row(()), "words", latex=latex), "") for latex in found]
        ce = r"\providecommand{\ce}[1]{\text{\detokenize{#1}}}"
        self.sheet(ce + "\n\n" + "\n\n".join(made))
